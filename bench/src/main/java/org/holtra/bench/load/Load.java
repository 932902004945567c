package org.holtra.bench.load;

import java.io.BufferedInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.Socket;
import java.net.URI;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicReference;
import java.util.concurrent.locks.LockSupport;
import java.util.function.IntFunction;

/** Sends messages over a number of connections, each waiting for its answer before it sends the next. */
final class Load {

    static final int DEVICES = 1_000;

    /**
     * What a run came to.
     *
     * @param nanos latencies of the answers, in order of size; with a pace they count from when each message was to be sent
     */
    record Result(int messages, double seconds, long[] nanos, int refused) {

        double rate() {
            return messages / seconds;
        }

        double millis(double quantile) {
            return nanos.length == 0
                    ? 0
                    : nanos[(int) Math.min(nanos.length - 1L, (long) (nanos.length * quantile))] / 1e6;
        }
    }

    private final URI address;
    private final int connections;
    private final String head;
    private final IntFunction<byte[]> bodies;
    private final int bytes;

    Load(String address, String token, int connections) {
        this(address, token, connections, number -> Body.of(number, DEVICES));
    }

    /** @param bodies by number, all of one length */
    Load(String address, String token, int connections, IntFunction<byte[]> bodies) {
        this.address = URI.create(address);
        this.connections = connections;
        this.bodies = bodies;
        this.bytes = bodies.apply(0).length;
        this.head = "POST " + this.address.getPath() + " HTTP/1.1\r\nHost: 127.0.0.1\r\nAuthorization: Bearer " + token
                + "\r\nContent-Type: application/json\r\nContent-Length: " + bytes + "\r\n\r\n";
    }

    /** As fast as it goes, numbered from a number on. */
    Result full(int first, int messages) {
        return run(first, messages, 0, new long[messages]);
    }

    /**
     * At an even pace.
     *
     * @param due filled with when each message was to be sent, by the steady clock
     */
    Result paced(int first, int messages, double rate, long[] due) {
        return run(first, messages, rate, due);
    }

    private Result run(int first, int messages, double rate, long[] due) {
        AtomicInteger next = new AtomicInteger();
        AtomicInteger refused = new AtomicInteger();
        AtomicReference<IOException> failure = new AtomicReference<>();
        long[] nanos = new long[messages];
        List<Thread> threads = new ArrayList<>();
        long start = System.nanoTime() + 5_000_000;
        for (int i = 0; i < connections; i++) {
            threads.add(Thread.ofPlatform().start(() -> {
                try (Socket socket = new Socket(InetAddress.getLoopbackAddress(), address.getPort())) {
                    socket.setTcpNoDelay(true);
                    InputStream in = new BufferedInputStream(socket.getInputStream(), 4_096);
                    OutputStream out = socket.getOutputStream();
                    byte[] headBytes = head.getBytes();
                    byte[] request = Arrays.copyOf(headBytes, headBytes.length + bytes);
                    int status = 0;
                    for (int n = next.getAndIncrement(); n < messages; n = next.getAndIncrement()) {
                        System.arraycopy(bodies.apply(first + n), 0, request, headBytes.length, bytes);
                        long at = rate == 0 ? System.nanoTime() : start + (long) (n * 1e9 / rate);
                        await(at);
                        due[n] = at;
                        out.write(request);
                        Exchange answer = Exchange.read(in);
                        nanos[n] = System.nanoTime() - at;
                        if (answer == null || answer.status() / 100 != 2) {
                            refused.incrementAndGet();
                        }
                        if (answer == null) {
                            throw new IOException("the connection was closed after an answer of " + status);
                        }
                        status = answer.status();
                    }
                } catch (IOException e) {
                    failure.compareAndSet(null, e);
                }
            }));
        }
        threads.forEach(Load::join);
        if (failure.get() != null) {
            throw new UncheckedIOException("the load could not be sent", failure.get());
        }
        double seconds = (System.nanoTime() - start) / 1e9;
        Arrays.sort(nanos);
        return new Result(messages, seconds, nanos, refused.get());
    }

    private static void await(long at) {
        for (long left = at - System.nanoTime(); left > 0; left = at - System.nanoTime()) {
            LockSupport.parkNanos(left);
        }
    }

    static void join(Thread thread) {
        try {
            thread.join();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }
}
