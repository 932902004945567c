package org.holtra.bench.load;

import java.io.IOException;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;

/** Connections that send a byte every five seconds, of each type so many, and are made anew when the server ends them. */
final class SlowSenders implements AutoCloseable {

    private static final List<String> TYPES = List.of(
            "GET /api/v1/health HTTP/1.1\r\nHost: x\r\nX-Slow: ",
            "POST /api/v1/session HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nContent-Length: 4000\r\n\r\n",
            "POST /in/bench HTTP/1.1\r\nHost: x\r\nAuthorization: Bearer wrong\r\nContent-Length: 4000\r\n\r\n",
            "POST /in/nowhere HTTP/1.1\r\nHost: x\r\nContent-Length: 4000\r\n\r\n",
            "PUT /api/v1/credentials/x HTTP/1.1\r\nHost: x\r\nContent-Length: 4000\r\n\r\n",
            "POST /in/bench HTTP/1.1\r\nHost: x\r\nAuthorization: Bearer bench-token\r\nContent-Length: 4000\r\n\r\n");

    private static final long EVERY_SECONDS = 5;

    private final URI address;
    private final List<Socket> open = new ArrayList<>();
    private final List<Integer> types = new ArrayList<>();
    private final ScheduledExecutorService clock = Executors.newSingleThreadScheduledExecutor();

    /** @param count of all types together */
    SlowSenders(String address, int count) throws IOException {
        this.address = URI.create(address);
        for (int i = 0; i < count; i++) {
            types.add(i % TYPES.size());
            open.add(begin(types.get(i)));
        }
        clock.scheduleWithFixedDelay(this::another, EVERY_SECONDS, EVERY_SECONDS, TimeUnit.SECONDS);
    }

    private Socket begin(int type) throws IOException {
        Socket socket = new Socket(address.getHost(), address.getPort());
        socket.getOutputStream().write(TYPES.get(type).getBytes(StandardCharsets.US_ASCII));
        return socket;
    }

    private void another() {
        for (int i = 0; i < open.size(); i++) {
            try {
                open.get(i).getOutputStream().write('{');
            } catch (IOException e) {
                again(i); // the server ended it, as it should
            }
        }
    }

    private void again(int at) {
        try {
            open.get(at).close();
            open.set(at, begin(types.get(at)));
        } catch (IOException e) {
            throw new IllegalStateException("the server takes no connections any more", e);
        }
    }

    @Override
    public void close() throws IOException {
        clock.shutdownNow();
        for (Socket socket : open) {
            socket.close();
        }
    }
}
