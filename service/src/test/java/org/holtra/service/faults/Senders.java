package org.holtra.service.faults;

import java.io.UncheckedIOException;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentMap;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.locks.LockSupport;
import java.util.function.IntFunction;
import org.holtra.service.support.Client;

/**
 * Devices that send one message after another, each until it is acknowledged, at whatever node is there; they remember what
 * was acknowledged, and under which id.
 */
final class Senders {

    /**
     * @param id as acknowledged
     * @param node by which
     */
    record Acknowledged(String device, int number, String id, String node) {}

    private static final long PAUSE_NANOS = 60_000_000;
    private static final long PAUSE_IN_BURST_NANOS = 2_000_000;
    private static final long PAUSE_AFTER_REFUSAL_NANOS = 100_000_000;

    private final IntFunction<String> addresses;
    private final ConcurrentMap<String, Acknowledged> acknowledged = new ConcurrentHashMap<>();
    private final AtomicInteger refused = new AtomicInteger();
    private final List<Thread> threads = new ArrayList<>();
    private volatile boolean stop;
    private volatile boolean burst;

    /** @param addresses where to send to at the n-th try */
    Senders(int devices, IntFunction<String> addresses) {
        this.addresses = addresses;
        for (int device = 0; device < devices; device++) {
            int of = device;
            threads.add(Thread.ofVirtual().start(() -> send("device-" + of, of)));
        }
    }

    private void send(String device, int offset) {
        int tries = offset;
        for (int number = 1; !stop; number++) {
            byte[] body = ("{\"id\":\"" + device + "\",\"n\":" + number + "}").getBytes();
            while (!stop && !sent(device, number, body, tries)) {
                // The next try goes to the next node.
                tries++;
                LockSupport.parkNanos(PAUSE_AFTER_REFUSAL_NANOS);
            }
            LockSupport.parkNanos(burst ? PAUSE_IN_BURST_NANOS : PAUSE_NANOS);
        }
    }

    /** Whether each sends its next message almost at once. */
    void burst(boolean on) {
        burst = on;
    }

    private boolean sent(String device, int number, byte[] body, int tries) {
        try {
            String node = addresses.apply(tries);
            Client.Answer answer = new Client(node, "").call("POST", "/in/f", body, "Authorization", "Bearer in-token");
            if (answer.status() != 202) {
                refused.incrementAndGet();
                return false;
            }
            String id = answer.json().path("id").asString();
            acknowledged.put(id, new Acknowledged(device, number, id, node));
            return true;
        } catch (UncheckedIOException e) {
            refused.incrementAndGet();
            return false;
        }
    }

    int count() {
        return acknowledged.size();
    }

    int refused() {
        return refused.get();
    }

    List<Acknowledged> acknowledged() {
        return List.copyOf(acknowledged.values());
    }

    void stop() {
        stop = true;
        for (Thread thread : threads) {
            try {
                thread.join();
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }
    }
}
