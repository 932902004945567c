package org.holtra.cli;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.io.PrintWriter;
import java.io.StringWriter;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Executors;
import java.util.function.Function;
import picocli.CommandLine;

/** A service whose answers the test says, for what a real one answers rarely; and the client run against it. */
final class AnsweredService implements AutoCloseable {

    record Answer(int status, String body) {}

    record Ran(int exit, String out, String err) {}

    private final Map<String, Function<String, Answer>> answers = new HashMap<>();
    private final List<String> asked = new ArrayList<>();
    private final List<String> bodies = new ArrayList<>();
    private final HttpServer server;

    AnsweredService() {
        try {
            server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        server.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        server.createContext("/", this::handle);
        server.start();
    }

    /** @param call method and path, such as {@code GET /api/v1/jobs} */
    void answers(String call, int status, String body) {
        answers.put(call, query -> new Answer(status, body));
    }

    /** @param answer by the query of the call; null where it has none */
    void answers(String call, Function<String, String> answer) {
        answers.put(call, query -> new Answer(200, answer.apply(query)));
    }

    /** What was asked, in its order: method, path and query. */
    List<String> asked() {
        synchronized (asked) {
            return List.copyOf(asked);
        }
    }

    /** What was sent with each call, in its order; empty where nothing was. */
    List<String> bodies() {
        synchronized (asked) {
            return List.copyOf(bodies);
        }
    }

    String address() {
        return "http://127.0.0.1:" + server.getAddress().getPort();
    }

    private void handle(HttpExchange exchange) throws IOException {
        String call =
                exchange.getRequestMethod() + " " + exchange.getRequestURI().getPath();
        String query = exchange.getRequestURI().getRawQuery();
        String sent = new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
        synchronized (asked) {
            asked.add(query == null ? call : call + "?" + query);
            bodies.add(sent);
        }
        Answer answer = answers.getOrDefault(call, any -> new Answer(404, "{\"title\":\"Not found\"}"))
                .apply(query);
        byte[] body = answer.body().getBytes(StandardCharsets.UTF_8);
        exchange.sendResponseHeaders(answer.status(), body.length == 0 ? -1 : body.length);
        exchange.getResponseBody().write(body);
        exchange.close();
    }

    /** Runs the client within this process. */
    Ran holtra(String... arguments) {
        return run(address(), arguments);
    }

    static Ran run(String server, String... arguments) {
        List<String> all = new ArrayList<>(List.of(arguments));
        all.addAll(List.of("--server", server, "--key", "made-up-key"));
        StringWriter out = new StringWriter();
        StringWriter err = new StringWriter();
        int exit = Holtra.commandLine(arguments)
                .setColorScheme(CommandLine.Help.defaultColorScheme(CommandLine.Help.Ansi.OFF))
                .setOut(new PrintWriter(out, true))
                .setErr(new PrintWriter(err, true))
                .execute(all.toArray(String[]::new));
        return new Ran(exit, out.toString(), err.toString());
    }

    @Override
    public void close() {
        server.stop(0);
    }
}
