package org.holtra.service.support;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.locks.LockSupport;
import java.util.function.Predicate;
import java.util.function.Supplier;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Talks to a service over HTTP, as a program with an API key. */
public final class Client {

    public static final JsonMapper JSON = JsonMapper.shared();

    private static final Duration PATIENCE = Duration.ofSeconds(Long.getLong("holtra.test.patience", 180));
    private static final HttpClient HTTP =
            HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1).build();

    private final String address;
    private final String key;

    public Client(String address, String key) {
        this.address = address;
        this.key = key;
    }

    /** What came back. */
    public record Answer(int status, Map<String, List<String>> headers, String body) {

        public JsonNode json() {
            return JSON.readTree(body);
        }

        public String header(String name) {
            return headers.entrySet().stream()
                    .filter(header -> header.getKey().equalsIgnoreCase(name))
                    .map(header -> header.getValue().getFirst())
                    .findFirst()
                    .orElse(null);
        }
    }

    /** A call without the key. */
    public Answer call(String method, String path, byte[] body, String... headers) {
        HttpRequest.Builder request = HttpRequest.newBuilder(URI.create(address + path))
                .timeout(Duration.ofMinutes(2))
                .method(
                        method,
                        body == null
                                ? HttpRequest.BodyPublishers.noBody()
                                : HttpRequest.BodyPublishers.ofByteArray(body));
        if (headers.length > 0) {
            request.headers(headers);
        }
        try {
            HttpResponse<String> response = HTTP.send(request.build(), HttpResponse.BodyHandlers.ofString());
            return new Answer(response.statusCode(), response.headers().map(), response.body());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    public Answer keyed(String method, String path, byte[] body, String contentType) {
        return call(method, path, body, "Authorization", "Bearer " + key, "Content-Type", contentType);
    }

    public JsonNode get(String path) {
        return good(keyed("GET", path, null, "application/json")).json();
    }

    public Answer post(String path, Object body) {
        return keyed("POST", path, JSON.writeValueAsBytes(body), "application/json");
    }

    public Answer put(String path, Object body) {
        return keyed("PUT", path, JSON.writeValueAsBytes(body), "application/json");
    }

    public Answer adopt(String yaml) {
        return keyed("POST", "/api/v1/setup/adopt?waiting=drop", yaml.getBytes(), "application/yaml");
    }

    public JsonNode save(String credential, Map<String, String> fields) {
        return good(put("/api/v1/credentials/" + credential, fields)).json();
    }

    /** Sends a message in by an inlet and gives its id. */
    public String send(String inlet, String body) {
        Answer answer = keyed("POST", "/api/v1/inlets/" + inlet + "/messages", body.getBytes(), "application/json");
        return good(answer).json().path("id").asString();
    }

    public JsonNode trace(String id) {
        return get("/api/v1/messages/" + id);
    }

    /** The trace of a message once it is as wanted. */
    public JsonNode traceWhen(String id, Predicate<JsonNode> wanted) {
        return await(() -> trace(id), wanted);
    }

    /** Returns once no delivery waits, by a count that was made after this was called. */
    public void awaitNothingWaits() {
        awaitWaiting(0);
    }

    /** The same, for so many. */
    public void awaitWaiting(int deliveries) {
        Instant called = Instant.now();
        await(
                () -> get("/api/v1/status"),
                status -> status.path("waiting").asInt(-1) == deliveries
                        && Instant.parse(status.path("countedAt").asString()).isAfter(called));
    }

    /** The first lane's state in a trace. */
    public static String state(JsonNode trace) {
        return trace.at("/lanes/0/state").asString("");
    }

    public static Answer good(Answer answer) {
        if (answer.status() / 100 != 2) {
            throw new AssertionError("answered " + answer.status() + ": " + answer.body());
        }
        return answer;
    }

    /** Looks again until what is seen is as wanted; fails with the last that was seen. */
    public static <T> T await(Supplier<T> look, Predicate<T> wanted) {
        return await(look, wanted, PATIENCE);
    }

    /** The same, with a patience of one's own. */
    public static <T> T await(Supplier<T> look, Predicate<T> wanted, Duration patience) {
        Instant deadline = Instant.now().plus(patience);
        List<T> seen = new ArrayList<>();
        while (true) {
            T now = look.get();
            if (wanted.test(now)) {
                return now;
            }
            seen.add(now);
            if (Instant.now().isAfter(deadline)) {
                throw new AssertionError("waited for in vain; seen last: " + seen.getLast());
            }
            LockSupport.parkNanos(20_000_000);
        }
    }
}
