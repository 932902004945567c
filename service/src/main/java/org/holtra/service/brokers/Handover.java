package org.holtra.service.brokers;

import java.time.Duration;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.TreeMap;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.locks.Condition;
import java.util.concurrent.locks.ReentrantLock;
import org.holtra.service.intake.Receipt;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Hands messages over in the order they came, several under way at once, and acknowledges each when it is durable. What could
 * not be kept is handed over again, before anything that came later. What is paused stays unacknowledged, so that the broker
 * waits; of QoS 0, which it sends all the same, {@value #MOST_WAITING} or 32 MB are held and the rest is lost and counted.
 */
public final class Handover implements AutoCloseable {

    static final int MOST_WAITING = 10_000;
    static final long MOST_WAITING_BYTES = 32 << 20;
    private static final Duration LONGEST_GOODBYE = Duration.ofSeconds(5);
    private static final Logger log = LoggerFactory.getLogger(Handover.class);

    /** Where messages go. */
    public interface Taker {

        /** Throws, or completes with a failure, if the message cannot be kept now. */
        CompletableFuture<Receipt> take(Incoming message);

        /** It is durable; the broker is told next. */
        void kept(Receipt receipt);

        /** A message could not be kept, and is handed over again after a pause. */
        void notKept(Throwable why);
    }

    /** @param over the connection that it came over */
    private record Numbered(long number, Incoming message, Object over) {}

    private final Taker taker;
    private final Duration pauseAfterFailure;
    private final AtomicLong lost = new AtomicLong();
    private final Thread thread;

    /**
     * Held while a message is handed over, and by what is told of a failure: so whatever was handed over is in the journal's queue
     * by then, and fails with it. Fair, since the journal's thread waits for it. Taken before the other.
     */
    private final ReentrantLock handing = new ReentrantLock(true);

    private final ReentrantLock lock = new ReentrantLock();
    private final Condition changed = lock.newCondition();

    /** All below is guarded by the lock. */
    private final Deque<Numbered> waiting = new ArrayDeque<>();

    private final TreeMap<Long, Numbered> failed = new TreeMap<>();
    private long next;
    private int waitingUnacknowledgeable;
    private long unacknowledgeableBytes;
    private int underWay;
    private long restsUntilNanos;
    private boolean paused;
    private boolean closed;

    public Handover(String name, Taker taker, Duration pauseAfterFailure) {
        this.taker = taker;
        this.pauseAfterFailure = pauseAfterFailure;
        this.thread = Thread.ofVirtual().name(name).start(this::run);
    }

    /**
     * Returns at once.
     *
     * @param over the connection that it came over
     */
    public void offer(Incoming message, Object over) {
        lock.lock();
        try {
            if (message.qos() == 0) {
                if (waitingUnacknowledgeable >= MOST_WAITING || unacknowledgeableBytes >= MOST_WAITING_BYTES) {
                    lost.incrementAndGet();
                    return;
                }
                waitingUnacknowledgeable++;
                unacknowledgeableBytes += message.payload().length;
            }
            waiting.add(new Numbered(next++, message, over));
            changed.signalAll();
        } finally {
            lock.unlock();
        }
    }

    /** How many messages of QoS 0 were lost since this was last asked. */
    public long lost() {
        return lost.getAndSet(0);
    }

    /**
     * The broker still knew what it had sent and was not told to be kept, and sends it anew over this connection: what came over
     * others and is not under way is let go of.
     */
    public void only(Object over) {
        lock.lock();
        try {
            waiting.removeIf(message -> message.message.qos() > 0 && message.over != over);
            failed.values().removeIf(message -> message.message.qos() > 0 && message.over != over);
            changed.signalAll();
        } finally {
            lock.unlock();
        }
    }

    public void pause(boolean wanted) {
        lock.lock();
        try {
            paused = wanted;
            changed.signalAll();
        } finally {
            lock.unlock();
        }
    }

    private void run() {
        try {
            for (Numbered message = next(); message != null; message = next()) {
                handOver(message);
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** What is handed over next; what failed comes first, and one by one. Null once it is closed. */
    private Numbered next() throws InterruptedException {
        lock.lock();
        try {
            while (!closed) {
                long rest = restsUntilNanos - System.nanoTime();
                if (paused || failed.isEmpty() && waiting.isEmpty() || !failed.isEmpty() && underWay > 0) {
                    changed.await();
                } else if (failed.isEmpty()) {
                    return counted(waiting.poll());
                } else if (rest > 0) {
                    changed.awaitNanos(rest);
                } else {
                    underWay++;
                    return failed.pollFirstEntry().getValue();
                }
            }
            return null;
        } finally {
            lock.unlock();
        }
    }

    private Numbered counted(Numbered message) {
        underWay++;
        if (message.message.qos() == 0) {
            waitingUnacknowledgeable--;
            unacknowledgeableBytes -= message.message.payload().length;
        }
        return message;
    }

    private void handOver(Numbered message) {
        handing.lock();
        try {
            if (isOvertaking(message)) {
                return;
            }
            begin(message);
        } finally {
            handing.unlock();
        }
    }

    /** One that came earlier failed since this was the next: it waits its turn. */
    private boolean isOvertaking(Numbered message) {
        lock.lock();
        try {
            if (failed.isEmpty() || failed.firstKey() > message.number) {
                return false;
            }
            failed.put(message.number, message);
            underWay--;
            changed.signalAll();
            return true;
        } finally {
            lock.unlock();
        }
    }

    private void begin(Numbered message) {
        CompletableFuture<Receipt> taken;
        try {
            taken = taker.take(message.message);
        } catch (RuntimeException e) {
            taken = CompletableFuture.failedFuture(e);
        }
        taken.whenComplete((receipt, failure) -> ended(message, receipt, failure));
    }

    private void ended(Numbered message, Receipt receipt, Throwable failure) {
        Throwable why = failure;
        if (why == null) {
            try {
                taker.kept(receipt);
                message.message.acknowledge().run();
            } catch (RuntimeException e) {
                // It is durable. If the connection is gone, the broker sends it once more.
                log.warn("A message of {} could not be acknowledged: {}", message.message.topic(), e.toString());
            }
        }
        if (why == null) {
            left(message, false);
        } else {
            handing.lock();
            try {
                left(message, true);
            } finally {
                handing.unlock();
            }
            taker.notKept(why instanceof CompletionException && why.getCause() != null ? why.getCause() : why);
        }
    }

    private void left(Numbered message, boolean hasFailed) {
        lock.lock();
        try {
            underWay--;
            if (hasFailed) {
                failed.put(message.number, message);
                restsUntilNanos = System.nanoTime() + pauseAfterFailure.toNanos();
            }
            changed.signalAll();
        } finally {
            lock.unlock();
        }
    }

    /** Hands nothing over any more, and waits a moment for what is under way. The rest is not acknowledged, and comes again. */
    @Override
    public void close() {
        lock.lock();
        try {
            closed = true;
            changed.signalAll();
            long left = LONGEST_GOODBYE.toNanos();
            while (underWay > 0 && left > 0) {
                left = changed.awaitNanos(left);
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } finally {
            lock.unlock();
        }
        thread.interrupt();
    }
}
