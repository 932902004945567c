package org.holtra.standins.historian;

import com.sun.net.httpserver.HttpExchange;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.holtra.standins.historian.Historian.Sample;
import org.holtra.standins.http.Loopback;

/**
 * The historian over HTTP, with a bearer token.
 *
 * <ul>
 *   <li>{@code POST /write} with lines of points: keeps their numbers; of a line that is none the whole request is refused;
 *   <li>{@code POST /reports} with CSV lines of five values: keeps them; other lines are refused;
 *   <li>{@code GET /}: a page; {@code GET /series}, {@code GET /reports}: the same as JSON.
 * </ul>
 */
public final class HistorianServer implements AutoCloseable {

    private static final int REPORT_COLUMNS = 5;

    private final Historian historian;
    private final String token;
    private final Loopback server;

    /** @param port 0 for a free one */
    public HistorianServer(Historian historian, int port, String token) throws IOException {
        this.historian = historian;
        this.token = token;
        this.server = new Loopback(port, this::handle);
    }

    public int port() {
        return server.port();
    }

    private void handle(HttpExchange exchange) throws IOException {
        String path = exchange.getRequestURI().getPath();
        boolean post = exchange.getRequestMethod().equals("POST");
        try (exchange) {
            byte[] body = exchange.getRequestBody().readAllBytes();
            if (post && !known(exchange.getRequestHeaders().getFirst("Authorization"))) {
                Loopback.json(exchange, 401, Map.of("error", "unknown token"));
            } else if (post && path.equals("/write")) {
                write(exchange, new String(body, StandardCharsets.UTF_8));
            } else if (post && path.equals("/reports")) {
                report(exchange, new String(body, StandardCharsets.UTF_8));
            } else if (!post && path.equals("/series")) {
                Loopback.json(exchange, 200, historian.series());
            } else if (!post && path.equals("/reports")) {
                Loopback.json(exchange, 200, historian.lines());
            } else if (!post && path.equals("/")) {
                Loopback.answer(exchange, 200, "text/html; charset=utf-8", page());
            } else {
                Loopback.json(exchange, 404, Map.of("error", "there is nothing at " + path));
            }
        }
    }

    private boolean known(String given) {
        return Loopback.same(given, "Bearer " + token);
    }

    private void write(HttpExchange exchange, String body) throws IOException {
        List<Sample> samples;
        try {
            samples = Points.read(body);
        } catch (IllegalArgumentException e) {
            Loopback.json(exchange, 400, Map.of("error", "unable to parse " + e.getMessage()));
            return;
        }
        if (first(exchange)) {
            historian.write(samples);
        }
        Loopback.json(exchange, 200, Map.of("written", samples.size()));
    }

    private void report(HttpExchange exchange, String body) throws IOException {
        List<String> lines = body.lines().toList();
        if (lines.isEmpty() || lines.stream().anyMatch(line -> line.split(",", -1).length != REPORT_COLUMNS)) {
            Loopback.json(exchange, 422, Map.of("error", "a line has " + REPORT_COLUMNS + " values"));
            return;
        }
        if (first(exchange)) {
            lines.forEach(historian::line);
        }
        Loopback.json(exchange, 200, Map.of("lines", lines.size()));
    }

    private boolean first(HttpExchange exchange) {
        String key = exchange.getRequestHeaders().getFirst("Idempotency-Key");
        return key == null || historian.fresh(key);
    }

    private String page() {
        StringBuilder rows = new StringBuilder();
        historian
                .series()
                .forEach((name, series) -> rows.append("<tr><td>")
                        .append(escaped(name))
                        .append("<td>")
                        .append(series.last().value())
                        .append("<td>")
                        .append(Instant.ofEpochMilli(series.last().at()))
                        .append("<td>")
                        .append(series.count()));
        return """
                <!doctype html><html lang="en"><meta charset="utf-8"><meta http-equiv="refresh" content="3">
                <title>Historian (a stand-in)</title>
                <style>body{font:15px/1.5 sans-serif;margin:2rem;color:#222}table{border-collapse:collapse}
                td,th{text-align:left;padding:.2rem 1rem .2rem 0;border-bottom:1px solid #ddd}</style>
                <h1>Historian</h1><p>A stand-in. It keeps %d series; its reporting service has %d lines.</p>
                <table><tr><th>series<th>last value<th>at<th>samples</tr>%s</table></html>
                """.formatted(historian.series().size(), historian.lines().size(), rows);
    }

    private static String escaped(String text) {
        return text.replace("&", "&amp;").replace("<", "&lt;");
    }

    @Override
    public void close() {
        server.close();
    }
}
