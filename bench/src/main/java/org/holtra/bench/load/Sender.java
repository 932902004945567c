package org.holtra.bench.load;

import java.util.concurrent.atomic.AtomicInteger;

/** Sends to one address, each message with a number of its own. */
final class Sender {

    private static final int CONNECTIONS = 64;
    private static final int WARMING = 20_000;
    private static final long LONGEST_NANOS = 600_000_000_000L;

    private final Load load;
    private final AtomicInteger next;

    Sender(String address) {
        this(address, 0);
    }

    /** @param first the number of the first message */
    Sender(String address, int first) {
        this.load = new Load(address, "bench-token", CONNECTIONS);
        this.next = new AtomicInteger(first);
    }

    /** Until it gets no faster; gives the rate then. */
    double warm() {
        return Warming.up(() -> full(WARMING).rate());
    }

    Load.Result full(int messages) {
        return load.full(next.getAndAdd(messages), messages);
    }

    Load.Result paced(int messages, double rate) {
        return load.paced(next.getAndAdd(messages), messages, rate, new long[messages]);
    }

    double warmThrough(Sink sink, int lanes) {
        return Warming.up(() -> through(sink, WARMING, lanes));
    }

    /** From the first message sent until the last one has arrived, in deliveries a second. */
    double through(Sink sink, int messages, int lanes) {
        sink.reset(0);
        long began = System.nanoTime();
        load.full(next.getAndAdd(messages), messages);
        await(sink, (long) messages * lanes);
        return messages * lanes / ((sink.last() - began) / 1e9);
    }

    /** Latencies from when a message was to be sent until it came to its destination. */
    Load.Result endToEnd(Sink sink, int messages, double rate) {
        int first = next.getAndAdd(messages);
        sink.reset(first + messages);
        long[] due = new long[messages];
        Load.Result sent = load.paced(first, messages, rate, due);
        await(sink, messages);
        long[] nanos = new long[messages];
        for (int i = 0; i < messages; i++) {
            nanos[i] = sink.came(first + i) - due[i];
        }
        java.util.Arrays.sort(nanos);
        return new Load.Result(messages, sent.seconds(), nanos, sent.refused());
    }

    private static void await(Sink sink, long count) {
        long deadline = System.nanoTime() + LONGEST_NANOS;
        while (sink.count() < count) {
            if (System.nanoTime() > deadline) {
                throw new IllegalStateException(sink.count() + " of " + count + " arrived");
            }
            Running.pause(5);
        }
    }
}
