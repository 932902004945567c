package org.holtra.standins.http;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpHandler;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.util.concurrent.Executors;
import tools.jackson.databind.json.JsonMapper;

/** An HTTP server on loopback, and the plain answers that stand-ins give. */
public final class Loopback implements AutoCloseable {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final int BACKLOG = 256;

    private final HttpServer server;

    /** @param port 0 for a free one */
    public Loopback(int port, HttpHandler handler) throws IOException {
        server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), port), BACKLOG);
        server.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        server.createContext("/", handler);
        server.start();
    }

    public int port() {
        return server.getAddress().getPort();
    }

    /** Compared in a time that tells nothing of where they differ. */
    public static boolean same(String given, String wanted) {
        return given != null
                && MessageDigest.isEqual(
                        given.getBytes(StandardCharsets.UTF_8), wanted.getBytes(StandardCharsets.UTF_8));
    }

    public static void json(HttpExchange exchange, int status, Object value) throws IOException {
        answer(exchange, status, "application/json", JSON.writeValueAsString(value));
    }

    public static void answer(HttpExchange exchange, int status, String type, String text) throws IOException {
        byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
        exchange.getResponseHeaders().set("Content-Type", type);
        exchange.sendResponseHeaders(status, bytes.length == 0 ? -1 : bytes.length);
        exchange.getResponseBody().write(bytes);
    }

    @Override
    public void close() {
        server.stop(0);
    }
}
