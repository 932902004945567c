package org.holtra.service.kinds.http;

import jakarta.servlet.AsyncContext;
import jakarta.servlet.AsyncEvent;
import jakarta.servlet.AsyncListener;
import jakarta.servlet.ReadListener;
import jakarta.servlet.ServletInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.util.concurrent.atomic.AtomicBoolean;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** A body that is read as it comes, without a thread that waits for it, up to a size and within a time. */
final class SlowBody implements ReadListener {

    private static final Logger log = LoggerFactory.getLogger(SlowBody.class);

    /** Who wants it. Told once. */
    interface Reader {
        void came(byte[] body) throws IOException;

        /** @param tooLarge whether it was larger than it may be; else it did not come in time */
        void failed(boolean tooLarge) throws IOException;
    }

    private final ServletInputStream in;
    private final int limit;
    private final AsyncContext async;
    private final ByteArrayOutputStream body = new ByteArrayOutputStream();
    private final AtomicBoolean told = new AtomicBoolean();
    private Reader reader;

    SlowBody(ServletInputStream in, int limit, AsyncContext async) {
        this.in = in;
        this.limit = limit;
        this.async = async;
    }

    /** @param begun what of it was read already */
    void read(byte[] begun, Reader wanting) {
        body.writeBytes(begun);
        reader = wanting;
        async.addListener(new AsyncListener() {
            @Override
            public void onTimeout(AsyncEvent event) throws IOException {
                fail(false);
            }

            @Override
            public void onError(AsyncEvent event) throws IOException {
                fail(false);
            }

            @Override
            public void onComplete(AsyncEvent event) {
                // Nothing is left to do.
            }

            @Override
            public void onStartAsync(AsyncEvent event) {
                // It is not started anew.
            }
        });
        in.setReadListener(this);
    }

    private void fail(boolean tooLarge) throws IOException {
        if (told.compareAndSet(false, true)) {
            reader.failed(tooLarge);
        }
    }

    @Override
    public void onDataAvailable() throws IOException {
        byte[] some = new byte[8_192];
        while (in.isReady() && !in.isFinished()) {
            int count = in.read(some);
            if (count < 0) {
                return;
            }
            body.write(some, 0, count);
            if (body.size() > limit) {
                fail(true);
                return;
            }
        }
    }

    @Override
    public void onAllDataRead() throws IOException {
        if (told.compareAndSet(false, true)) {
            reader.came(body.toByteArray());
        }
    }

    @Override
    public void onError(Throwable failure) {
        log.debug("A body stopped coming", failure);
        try {
            fail(false);
        } catch (IOException e) {
            log.debug("Its sender was gone already", e);
        }
    }
}
