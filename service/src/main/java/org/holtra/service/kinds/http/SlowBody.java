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
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.TimeUnit;
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
        void came(byte[] body) throws IOException;

        void failed(Failure why) throws IOException;
    }

    /**
     * What bodies share.
     *
     * @param clock looks after those that come too slowly
     */
    record Bounds(LeastRate rate, BodyMemory memory, ScheduledExecutorService clock) {}

    private final ServletInputStream in;
    private final int limit;
    private final Bounds bounds;
    private final ByteArrayOutputStream body = new ByteArrayOutputStream();
    private final AtomicBoolean told = new AtomicBoolean();
    private final long began = System.nanoTime();
    private volatile long taken;
    private Reader reader;
    private ScheduledFuture<?> watch;

    SlowBody(ServletInputStream in, int limit, Bounds bounds) {
        this.in = in;
        this.limit = limit;
        this.bounds = bounds;
    }

    /** @param begun what of it was read already */
    void read(byte[] begun, AsyncContext async, Reader wanting) throws IOException {
        reader = wanting;
        if (!add(begun, begun.length)) {
            return;
        }
        long every = bounds.rate.grace().toMillis();
        watch = bounds.clock.scheduleWithFixedDelay(
                () -> Thread.ofVirtual().name("slow-body").start(this::failIfSlow),
                every,
                every,
                TimeUnit.MILLISECONDS);
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

    private void failIfSlow() {
        if (bounds.rate.isMissed(taken, Duration.ofNanos(System.nanoTime() - began))) {
            failQuietly();
        }
    }

    private void fail(Failure why) throws IOException {
        if (end()) {
            reader.failed(why);
        }
    }

    /** False if it had ended already. */
    private synchronized boolean end() {
        if (!told.compareAndSet(false, true)) {
            return false;
        }
        if (watch != null) {
            watch.cancel(false);
        }
        bounds.memory.giveBack(taken);
        return true;
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
                return true;
            }
        }
        fail(Failure.NO_MEMORY);
        return false;
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
            reader.came(body.toByteArray());
        }
    }

    @Override
    public void onError(Throwable failure) {
        log.debug("A body stopped coming", failure);
        failQuietly();
    }

    private void failQuietly() {
        try {
            fail(Failure.TOO_SLOW);
        } catch (IOException e) {
            log.debug("Its sender was gone already", e);
        }
    }
}
