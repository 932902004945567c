package org.holtra.service.faults;

import java.io.BufferedInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.holtra.service.support.Client;
import tools.jackson.databind.JsonNode;

/** A destination at the level of sockets, which can misbehave in ways that no web server does. */
final class HostileReceiver implements AutoCloseable {

    /** How it answers. */
    enum Mood {
        WELL,
        /** Takes the request and answers after the sender's patience is over. */
        LATE,
        /** Takes the request and answers the first half of a response, and no more. */
        HALF,
        /** Takes the request and resets the connection. */
        RESET,
        /** Answers 200 before it has read the body, and closes. */
        UNREAD,
        /** Takes the request and answers what is no HTTP. */
        NONSENSE,
        /** Answers 503. */
        BUSY
    }

    /**
     * A request.
     *
     * @param device null if its body was never read
     * @param taken whether it was told so by a 200
     */
    record Came(String lane, String device, int number, String key, boolean taken) {}

    private static final String OK = "HTTP/1.1 200 OK\r\nContent-Length: 2\r\n\r\n{}";
    private static final long LATE_MILLIS = 1_200;

    private final ServerSocket server;
    private final List<Came> came = new ArrayList<>();
    private volatile Mood mood = Mood.WELL;

    HostileReceiver() {
        try {
            server = new ServerSocket(0, 256, InetAddress.getLoopbackAddress());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        Thread.ofVirtual().start(this::accept);
    }

    String address() {
        return "http://127.0.0.1:" + server.getLocalPort();
    }

    void be(Mood next) {
        mood = next;
    }

    List<Came> came() {
        synchronized (came) {
            return List.copyOf(came);
        }
    }

    private void accept() {
        while (!server.isClosed()) {
            try {
                Socket socket = server.accept();
                Thread.ofVirtual().start(() -> serve(socket));
            } catch (IOException e) {
                return; // closed, at the end of the test
            }
        }
    }

    private void serve(Socket socket) {
        try (socket) {
            InputStream in = new BufferedInputStream(socket.getInputStream());
            while (exchange(socket, in)) {
                // the next request on this connection
            }
        } catch (IOException e) {
            return; // the sender went away, as killed senders do
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** False if the connection is to be closed. */
    private boolean exchange(Socket socket, InputStream in) throws IOException, InterruptedException {
        String first = line(in);
        if (first == null) {
            return false;
        }
        Map<String, String> headers = new HashMap<>();
        for (String header = line(in); header != null && !header.isEmpty(); header = line(in)) {
            int colon = header.indexOf(':');
            headers.put(
                    header.substring(0, colon).toLowerCase(Locale.ROOT),
                    header.substring(colon + 1).strip());
        }
        Mood now = mood;
        OutputStream out = socket.getOutputStream();
        if (now == Mood.UNREAD) {
            out.write(OK.getBytes(StandardCharsets.US_ASCII));
            synchronized (came) {
                came.add(new Came(first.split(" ")[1].substring(1), null, 0, headers.get("idempotency-key"), true));
            }
            return false;
        }
        byte[] body = in.readNBytes(Integer.parseInt(headers.getOrDefault("content-length", "0")));
        note(first, headers, body, now);
        switch (now) {
            case WELL -> out.write(OK.getBytes(StandardCharsets.US_ASCII));
            case LATE -> {
                Thread.sleep(LATE_MILLIS);
                out.write(OK.getBytes(StandardCharsets.US_ASCII));
            }
            case HALF -> {
                out.write("HTTP/1.1 200 OK\r\nContent-Le".getBytes(StandardCharsets.US_ASCII));
                return false;
            }
            case RESET -> {
                socket.setSoLinger(true, 0);
                return false;
            }
            case NONSENSE -> {
                out.write("what do you want?\r\n\r\n".getBytes(StandardCharsets.US_ASCII));
                return false;
            }
            case BUSY ->
                out.write("HTTP/1.1 503 Busy\r\nContent-Length: 0\r\n\r\n".getBytes(StandardCharsets.US_ASCII));
            case UNREAD -> throw new IllegalStateException("answered above");
        }
        return true;
    }

    private void note(String first, Map<String, String> headers, byte[] body, Mood now) {
        JsonNode json = Client.JSON.readTree(body);
        synchronized (came) {
            came.add(new Came(
                    first.split(" ")[1].substring(1),
                    json.path("id").asString(),
                    json.path("n").asInt(),
                    headers.get("idempotency-key"),
                    now == Mood.WELL));
        }
    }

    private static String line(InputStream in) throws IOException {
        StringBuilder line = new StringBuilder();
        for (int c = in.read(); c >= 0; c = in.read()) {
            if (c == '\n') {
                return line.toString();
            }
            if (c != '\r') {
                line.append((char) c);
            }
        }
        return null;
    }

    @Override
    public void close() {
        try {
            server.close();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
