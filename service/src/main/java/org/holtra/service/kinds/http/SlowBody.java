package org.holtra.service.kinds.http;

import jakarta.servlet.AsyncContext;
import jakarta.servlet.AsyncEvent;
import jakarta.servlet.AsyncListener;
import jakarta.servlet.ReadListener;
import jakarta.servlet.ServletInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.time.Duration;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.atomic.AtomicBoolean;
import org.holtra.service.web.BodyMemory;
import org.holtra.service.web.LeastRate;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * A body that is read as it comes, without a thread that waits for it, up to a size, within a time and no slower than the
 * least rate.
 */
final class SlowBody implements ReadListener {

    private static final Logger log = LoggerFactory.getLogger(SlowBody.class);

    /** Why a body could not be had. */
    enum Failure {
        TOO_LARGE,
        TOO_SLOW,
        /** All bodies under way together take the memory there is for them. */
        NO_MEMORY
    }

    /** Callback; one of its methods is invoked, and at most once. */
    interface Reader {
        /** The memory it takes is taken, and the reader's to give back. */
        void came(byte[] body) throws IOException;

        void failed(Failure why) throws IOException;
    }

    /**
     * What bodies share.
     *
     * @param clock answers callers that are refused again and again after a while
     */
    record Bounds(LeastRate rate, BodyMemory memory, ScheduledExecutorService clock) {}

    private final ServletInputStream in;
    private final int limit;
    private final Bounds bounds;
    private ByteArrayOutputStream body = new ByteArrayOutputStream();
    private final AtomicBoolean told = new AtomicBoolean();
    private final long began = System.nanoTime();
    private long taken;
    private Reader reader;
    private AsyncContext async;

    SlowBody(ServletInputStream in, int limit, Bounds bounds) {
        this.in = in;
        this.limit = limit;
        this.bounds = bounds;
    }

    /**
     * The request times out by what has come. It is the server that tells of it, as it tells of a read that failed: an answer
     * from a thread of ours could meet the server's own.
     *
     * @param begun what of it was read already
     */
    void read(byte[] begun, AsyncContext of, Reader wanting) throws IOException {
        reader = wanting;
        async = of;
        async.setTimeout(bounds.rate.grace().toMillis());
        if (!add(begun, begun.length)) {
            return;
        }
        async.addListener(new AsyncListener() {
            @Override
            public void onTimeout(AsyncEvent event) throws IOException {
                fail(Failure.TOO_SLOW);
            }

            @Override
            public void onError(AsyncEvent event) throws IOException {
                fail(Failure.TOO_SLOW);
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

    private void fail(Failure why) throws IOException {
        if (end()) {
            bounds.memory.giveBack(taken);
            reader.failed(why);
        }
    }

    /** False if it had ended already. */
    private synchronized boolean end() {
        return told.compareAndSet(false, true);
    }

    /** False if there is no room for it, and then that was said. */
    private boolean add(byte[] some, int count) throws IOException {
        synchronized (this) {
            if (told.get()) {
                return false;
            }
            if (bounds.memory.take(count)) {
                taken += count;
                body.write(some, 0, count);
                async.setTimeout(allowed().toMillis());
                return true;
            }
        }
        fail(Failure.NO_MEMORY);
        return false;
    }

    /** From its beginning on: by what has come, and no longer than a pause of the grace. */
    private Duration allowed() {
        Duration afterPause = Duration.ofNanos(System.nanoTime() - began).plus(bounds.rate.grace());
        Duration byRate = bounds.rate.allowed(taken);
        return byRate.compareTo(afterPause) < 0 ? byRate : afterPause;
    }

    @Override
    public void onDataAvailable() throws IOException {
        byte[] some = new byte[8_192];
        while (in.isReady() && !in.isFinished()) {
            int count = in.read(some);
            if (count < 0 || !add(some, count)) {
                return;
            }
            if (body.size() > limit) {
                fail(Failure.TOO_LARGE);
                return;
            }
        }
    }

    @Override
    public void onAllDataRead() throws IOException {
        if (end()) {
            byte[] whole = body.toByteArray();
            body = null; // the server keeps this object until the request is answered
            reader.came(whole);
        }
    }

    @Override
    public void onError(Throwable failure) {
        // The server tells the request's listener next.
        log.debug("A body stopped coming", failure);
    }
}
