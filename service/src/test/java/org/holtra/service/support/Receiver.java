package org.holtra.service.support;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import com.sun.net.httpserver.HttpsConfigurator;
import com.sun.net.httpserver.HttpsParameters;
import com.sun.net.httpserver.HttpsServer;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.Executors;
import java.util.function.IntFunction;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLParameters;

/** A destination that answers as a test tells it, and remembers what came. */
public final class Receiver implements AutoCloseable {

    /** What came, and when. */
    public record Came(Instant at, String method, String target, Map<String, List<String>> headers, String body) {

        public String header(String name) {
            return headers.entrySet().stream()
                    .filter(header -> header.getKey().equalsIgnoreCase(name))
                    .map(header -> header.getValue().getFirst())
                    .findFirst()
                    .orElse(null);
        }
    }

    /** How to answer; status 0 drops the connection, and negative ones never answer. */
    public record Reply(int status, String body, String... headers) {}

    private final HttpServer server;
    private final String scheme;
    private final List<Came> came = new CopyOnWriteArrayList<>();
    private volatile IntFunction<Reply> script;

    /** @param script gives the reply to the n-th request, from 1 */
    public Receiver(IntFunction<Reply> script) {
        this(script, HttpServer::create, "http");
    }

    private interface Creating {
        HttpServer server(InetSocketAddress address, int backlog) throws IOException;
    }

    private Receiver(IntFunction<Reply> script, Creating creating, String scheme) {
        this.script = script;
        this.scheme = scheme;
        try {
            server = creating.server(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 64);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        server.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        server.createContext("/", this::handle);
        server.start();
    }

    /**
     * One that speaks TLS and answers 200.
     *
     * @param wantsCertificate whether it refuses whoever shows none that it trusts
     */
    public static Receiver secure(SSLContext context, boolean wantsCertificate) {
        return new Receiver(
                n -> new Reply(200, "{}"),
                (address, backlog) -> {
                    HttpsServer server = HttpsServer.create(address, backlog);
                    server.setHttpsConfigurator(new HttpsConfigurator(context) {
                        @Override
                        public void configure(HttpsParameters parameters) {
                            SSLParameters tls = context.getDefaultSSLParameters();
                            tls.setNeedClientAuth(wantsCertificate);
                            parameters.setSSLParameters(tls);
                        }
                    });
                    return server;
                },
                "https");
    }

    public static Receiver answering(int status) {
        return new Receiver(n -> new Reply(status, "{}"));
    }

    public void answer(IntFunction<Reply> next) {
        script = next;
    }

    public String address() {
        return scheme + "://127.0.0.1:" + server.getAddress().getPort();
    }

    public List<Came> came() {
        return List.copyOf(came);
    }

    private void handle(HttpExchange exchange) throws IOException {
        String body = new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
        int number;
        synchronized (came) {
            came.add(new Came(
                    Instant.now(),
                    exchange.getRequestMethod(),
                    exchange.getRequestURI().toString(),
                    Map.copyOf(exchange.getRequestHeaders()),
                    body));
            number = came.size();
        }
        Reply reply = script.apply(number);
        if (reply.status() < 0) {
            return;
        }
        if (reply.status() == 0) {
            exchange.close();
            return;
        }
        for (int i = 0; i < reply.headers().length; i += 2) {
            exchange.getResponseHeaders().set(reply.headers()[i], reply.headers()[i + 1]);
        }
        byte[] bytes = reply.body().getBytes(StandardCharsets.UTF_8);
        exchange.sendResponseHeaders(reply.status(), bytes.length == 0 ? -1 : bytes.length);
        exchange.getResponseBody().write(bytes);
        exchange.close();
    }

    @Override
    public void close() {
        server.stop(0);
    }
}
