package org.holtra.bench.load;

import java.io.BufferedInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.atomic.AtomicLongArray;

/** A destination that answers 200 at once, counts, and notes when each message came by the number in it. */
final class Sink implements AutoCloseable {

    private static final byte[] ANSWER =
            "HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Length: 2\r\n\r\n{}".getBytes();

    private final ServerSocket server;
    private final AtomicLong count = new AtomicLong();
    private volatile AtomicLongArray came = new AtomicLongArray(0);
    private volatile long last;

    Sink() throws IOException {
        server = new ServerSocket(0, 256, InetAddress.getLoopbackAddress());
        Thread.ofPlatform().daemon().name("sink").start(this::accept);
    }

    String address() {
        return "http://127.0.0.1:" + server.getLocalPort();
    }

    /** Forgets what came, and notes times for so many messages. */
    void reset(int messages) {
        came = new AtomicLongArray(messages);
        count.set(0);
    }

    long count() {
        return count.get();
    }

    /** When the last one came, by the steady clock. */
    long last() {
        return last;
    }

    /** When a message came first, by the steady clock; 0 if it has not. */
    long came(int message) {
        return came.get(message);
    }

    private void accept() {
        while (!server.isClosed()) {
            try {
                Socket socket = server.accept();
                Thread.ofPlatform().daemon().start(() -> serve(socket));
            } catch (IOException e) {
                return;
            }
        }
    }

    private void serve(Socket socket) {
        try (socket) {
            socket.setTcpNoDelay(true);
            InputStream in = new BufferedInputStream(socket.getInputStream(), 8_192);
            OutputStream out = socket.getOutputStream();
            while (true) {
                Exchange request = Exchange.read(in);
                if (request == null) {
                    return;
                }
                note(request.body());
                out.write(ANSWER);
            }
        } catch (IOException e) {
            // The other side is gone; it connects again if it wants more.
            return;
        }
    }

    private void note(byte[] body) {
        long now = System.nanoTime();
        int number = Body.number(body);
        AtomicLongArray times = came;
        if (number >= 0 && number < times.length()) {
            times.compareAndSet(number, 0, now);
        }
        last = now;
        count.incrementAndGet();
    }

    @Override
    public void close() throws IOException {
        server.close();
    }
}
