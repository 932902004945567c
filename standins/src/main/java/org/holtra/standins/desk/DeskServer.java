package org.holtra.standins.desk;

import com.sun.net.httpserver.HttpExchange;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Stream;
import org.holtra.standins.http.Loopback;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * The works desk over HTTP.
 *
 * <ul>
 *   <li>{@code POST /orders…} with a bearer token, {@code POST /board…} with the header X-Board-Key: takes an order;
 *   <li>{@code POST /own…} with a token that an owner granted: takes an order in that owner's name;
 *   <li>{@code GET /}: a page with what it took; {@code GET /orders}, {@code GET /count}, {@code GET /keys}: the same as JSON;
 *   <li>{@code POST /mood} with {@code {"mood": "500", "seconds": 60}}: behaves so for a while; {@code "door": "board"}
 *       means the board, {@code "device": "cs-01"} with 403 refuses orders that name it only.
 * </ul>
 */
public final class DeskServer implements AutoCloseable {

    private static final Duration SLOW = Duration.ofSeconds(4);
    private static final Duration USUAL_MOOD = Duration.ofSeconds(60);
    private static final JsonMapper JSON = JsonMapper.shared();

    private final Desk desk;
    private final String ordersToken;
    private final String boardKey;
    private final Function<String, Optional<String>> owners;
    private final Loopback server;

    /**
     * @param port 0 for a free one
     * @param ordersToken what the door {@code orders} wants as a bearer token
     * @param boardKey what the door {@code board} wants in the header X-Board-Key
     */
    public DeskServer(Desk desk, int port, String ordersToken, String boardKey) throws IOException {
        this(desk, port, ordersToken, boardKey, token -> Optional.empty());
    }

    /** @param owners whom a token speaks for; empty if it is worth nothing */
    public DeskServer(
            Desk desk, int port, String ordersToken, String boardKey, Function<String, Optional<String>> owners)
            throws IOException {
        this.owners = owners;
        this.desk = desk;
        this.ordersToken = ordersToken;
        this.boardKey = boardKey;
        this.server = new Loopback(port, this::handle);
    }

    public int port() {
        return server.port();
    }

    private void handle(HttpExchange exchange) throws IOException {
        String path = exchange.getRequestURI().getPath();
        boolean post = exchange.getRequestMethod().equals("POST");
        try (exchange) {
            if (post && path.equals("/mood")) {
                mood(exchange);
            } else if (post && Stream.of("/orders", "/board", "/own").anyMatch(path::startsWith)) {
                take(exchange, path.startsWith("/board") ? "board" : path.startsWith("/own") ? "own" : "orders");
            } else if (!post && path.equals("/")) {
                Loopback.answer(exchange, 200, "text/html; charset=utf-8", DeskPage.of(desk));
            } else if (!post && path.equals("/orders")) {
                Loopback.json(exchange, 200, desk.orders());
            } else if (!post && path.equals("/count")) {
                Loopback.json(exchange, 200, desk.count());
            } else if (!post && path.equals("/keys")) {
                Loopback.json(exchange, 200, desk.keys());
            } else {
                Loopback.json(exchange, 404, Map.of("error", "there is nothing at " + path));
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private void mood(HttpExchange exchange) throws IOException {
        JsonNode wish;
        try {
            wish = JSON.readTree(exchange.getRequestBody().readAllBytes());
        } catch (JacksonException e) {
            Loopback.json(exchange, 400, Map.of("error", "send JSON, such as {\"mood\": \"500\", \"seconds\": 60}"));
            return;
        }
        String word = wish.path("mood").asString("");
        Optional<Mood.Kind> kind = Mood.Kind.of(word);
        if (kind.isEmpty()) {
            Loopback.json(exchange, 400, Map.of("error", "the mood `" + word + "` is not one of " + Mood.Kind.words()));
            return;
        }
        long seconds = wish.path("seconds").asLong(USUAL_MOOD.toSeconds());
        String door = wish.path("door").asString("orders");
        Instant until = Instant.now().plusSeconds(seconds);
        desk.setMood(door, new Mood(kind.get(), until, wish.path("device").asString(null)));
        Map<String, Object> said = new LinkedHashMap<>();
        said.put("door", door);
        said.put("mood", word);
        said.put("until", until.toString());
        Loopback.json(exchange, 200, said);
    }

    private void take(HttpExchange exchange, String door) throws IOException, InterruptedException {
        String body = new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
        Mood mood = desk.mood(door);
        switch (mood.kind()) {
            case DROPPING -> exchange.close();
            case FAILING -> Loopback.json(exchange, 500, Map.of("error", "the desk's own database is down"));
            case BUSY -> {
                exchange.getResponseHeaders().set("Retry-After", "5");
                Loopback.json(exchange, 429, Map.of("error", "the quota of this minute is used up"));
            }
            case LOCKED -> Loopback.json(exchange, 401, Map.of("error", "this token was withdrawn"));
            case REFUSING -> Loopback.json(exchange, 422, Map.of("error", "orders of this type are not taken"));
            case FORBIDDING -> {
                if (mood.detail() == null || body.contains(mood.detail())) {
                    Loopback.json(exchange, 403, Map.of("error", "not allowed for this asset"));
                } else {
                    accept(exchange, door, body);
                }
            }
            case SLOW -> {
                Thread.sleep(SLOW);
                accept(exchange, door, body);
            }
            case WELL -> accept(exchange, door, body);
        }
    }

    private void accept(HttpExchange exchange, String door, String body) throws IOException {
        if (door.equals("own")) {
            acceptOwn(exchange, body);
            return;
        }
        String given = door.equals("board")
                ? exchange.getRequestHeaders().getFirst("X-Board-Key")
                : exchange.getRequestHeaders().getFirst("Authorization");
        String wanted = door.equals("board") ? boardKey : "Bearer " + ordersToken;
        if (!Loopback.same(given, wanted)) {
            Loopback.json(exchange, 401, Map.of("error", "unknown token"));
            return;
        }
        String key = exchange.getRequestHeaders().getFirst("Idempotency-Key");
        if (key == null) {
            Loopback.json(exchange, 400, Map.of("error", "an Idempotency-Key is wanted"));
            return;
        }
        boolean simulated = "true".equals(exchange.getRequestHeaders().getFirst("Holtra-Simulated"));
        int number = desk.take(door, key, body, simulated);
        Loopback.json(exchange, 201, Map.of("number", number));
    }

    private void acceptOwn(HttpExchange exchange, String body) throws IOException {
        Optional<String> owner = Optional.ofNullable(
                        exchange.getRequestHeaders().getFirst("Authorization"))
                .map(header -> header.replaceFirst("^Bearer ", ""))
                .flatMap(owners);
        String key = exchange.getRequestHeaders().getFirst("Idempotency-Key");
        if (owner.isEmpty()) {
            Loopback.json(exchange, 401, Map.of("error", "this token is worth nothing"));
        } else if (key == null) {
            Loopback.json(exchange, 400, Map.of("error", "an Idempotency-Key is wanted"));
        } else {
            boolean simulated = "true".equals(exchange.getRequestHeaders().getFirst("Holtra-Simulated"));
            int number = desk.take(owner.get(), key, body, simulated);
            Loopback.json(exchange, 201, Map.of("number", number, "owner", owner.get()));
        }
    }

    @Override
    public void close() {
        server.close();
    }
}
