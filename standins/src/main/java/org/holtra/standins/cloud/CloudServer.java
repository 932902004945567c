package org.holtra.standins.cloud;

import com.sun.net.httpserver.HttpExchange;
import java.io.IOException;
import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Stream;
import org.holtra.standins.http.Loopback;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * An IoT cloud over HTTP. It refuses measurements of devices it does not know.
 *
 * <ul>
 *   <li>{@code GET /devices?key=…} or {@code ?name=…}: {@code {"items": […]}}; needs {@code devices:read};
 *   <li>{@code POST /devices} with {@code {"key", "name"}}: 201 with {@code id} and the device's own {@code token}; 409 if the
 *       name is taken, 402 beyond the quota; needs {@code devices:write};
 *   <li>{@code GET}, {@code DELETE /devices/ID}, {@code PUT /devices/ID/state} with {@code {"active": true}},
 *       {@code PUT /devices/ID/fields} with a list;
 *   <li>{@code PUT /registry/NAME}: the same registry for those who would rather say what is to be there;
 *   <li>{@code POST /devices/ID/measurements}: 404 for a device that is not there, 423 for one that is not active; needs
 *       {@code measurements:write}, or the device's own token;
 *   <li>{@code GET /token}: {@code {"rights": […]}} of the token that is shown;
 *   <li>{@code POST /mood}: {@code {"rights": […]}}, {@code {"quota": 10}}, {@code {"ownTokens": true}}, {@code {"take": "NAME"}},
 *       {@code {"delete": "KEY"}}, {@code {"disable": "KEY"}}, {@code {"rename": "KEY", "to": "NAME"}}, {@code {"slow": 20}} in
 *       milliseconds, {@code {"fail": 503, "times": 3}}, {@code {"silent": 1}}: so many creations are made and not answered;
 *   <li>{@code GET /}: a page; {@code GET /count}: how many devices and measurements there are.
 * </ul>
 */
public final class CloudServer implements AutoCloseable {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final String DEVICES = "/devices";
    private static final String REGISTRY = "/registry/";

    private final Cloud cloud;
    private final String token;
    private final Loopback server;
    private final AtomicInteger failures = new AtomicInteger();
    private final AtomicInteger silences = new AtomicInteger();
    private volatile int failure = 503;
    private volatile int slowMillis;

    /**
     * @param port 0 for a free one
     * @param token that the owner's requests show
     */
    public CloudServer(Cloud cloud, int port, String token) throws IOException {
        this.cloud = cloud;
        this.token = token;
        this.server = new Loopback(port, this::handle);
    }

    public int port() {
        return server.port();
    }

    /** So many requests are answered with this status. */
    public void fail(int status, int times) {
        failure = status;
        failures.set(times);
    }

    /** So many devices are created, and nobody is told. */
    public void keepSilent(int times) {
        silences.set(times);
    }

    public void answerAfter(int millis) {
        slowMillis = millis;
    }

    private void handle(HttpExchange exchange) throws IOException {
        String path = exchange.getRequestURI().getPath();
        try (exchange) {
            if (path.equals("/mood") && is(exchange, "POST")) {
                mood(exchange);
            } else if (path.equals("/") && is(exchange, "GET")) {
                Loopback.answer(exchange, 200, "text/html; charset=utf-8", CloudPage.of(cloud));
            } else if (path.equals("/count") && is(exchange, "GET")) {
                Loopback.json(
                        exchange,
                        200,
                        Map.of(
                                "devices",
                                cloud.devices().size(),
                                "measurements",
                                cloud.counts().values().stream()
                                        .mapToInt(Integer::intValue)
                                        .sum()));
            } else {
                if (slowMillis > 0) {
                    Thread.sleep(slowMillis);
                }
                if (failures.getAndUpdate(left -> Math.max(0, left - 1)) > 0) {
                    say(exchange, failure, "the cloud has trouble of its own");
                } else {
                    serve(exchange, path);
                }
            }
        } catch (JacksonException e) {
            say(exchange, 400, "this is no JSON");
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private void serve(HttpExchange exchange, String path) throws IOException {
        String shown = Optional.ofNullable(exchange.getRequestHeaders().getFirst("Authorization"))
                .map(header -> header.replaceFirst("^Bearer ", ""))
                .orElse("");
        boolean owner = Loopback.same(shown, token);
        String[] parts = path.split("/");
        if (parts.length == 4 && path.startsWith(DEVICES) && parts[3].equals("measurements")) {
            measure(exchange, parts[2], owner, shown);
        } else if (!owner) {
            say(exchange, 401, "unknown token");
        } else if (path.equals("/token")) {
            Loopback.json(
                    exchange,
                    200,
                    Map.of("rights", cloud.granted().stream().map(Right::word).toList()));
        } else if (path.equals(DEVICES)) {
            if (is(exchange, "POST")) {
                create(exchange);
            } else {
                search(exchange);
            }
        } else if (path.startsWith(REGISTRY) && is(exchange, "PUT")) {
            put(exchange, path.substring(REGISTRY.length()));
        } else if (path.startsWith(DEVICES + "/")) {
            device(exchange, parts[2], parts.length > 3 ? parts[3] : "");
        } else {
            say(exchange, 404, "there is nothing at " + path);
        }
    }

    private void search(HttpExchange exchange) throws IOException {
        if (lacks(exchange, Right.READ_DEVICES)) {
            return;
        }
        Map<String, String> query = query(exchange);
        List<Map<String, Object>> found = cloud.devices().stream()
                .filter(one -> !query.containsKey("key") || one.key().equals(query.get("key")))
                .filter(one -> !query.containsKey("name") || one.name().equals(query.get("name")))
                .map(CloudDevice::shown)
                .toList();
        Loopback.json(exchange, 200, Map.of("items", found));
    }

    private void create(HttpExchange exchange) throws IOException {
        JsonNode wanted = JSON.readTree(exchange.getRequestBody().readAllBytes());
        if (lacks(exchange, Right.CREATE_DEVICES)) {
            return;
        }
        String key = wanted.path("key").asString("");
        String name = wanted.path("name").asString("");
        if (key.isEmpty() || name.isEmpty()) {
            say(exchange, 422, "a device has a key and a name");
        } else if (cloud.byName(name).isPresent() || cloud.byKey(key).isPresent()) {
            say(exchange, 409, "the name " + name + " is taken");
        } else {
            made(exchange, key, name);
        }
    }

    private void made(HttpExchange exchange, String key, String name) throws IOException {
        try {
            CloudDevice made = cloud.create(key, name);
            if (silences.getAndUpdate(left -> Math.max(0, left - 1)) == 0) {
                Loopback.json(exchange, 201, Map.of("id", made.id(), "token", made.token()));
            }
        } catch (Cloud.Full e) {
            say(exchange, 402, e.getMessage());
        }
    }

    /** There afterwards, whether it was there before or not. */
    private void put(HttpExchange exchange, String name) throws IOException {
        if (lacks(exchange, Right.CREATE_DEVICES)) {
            return;
        }
        Optional<CloudDevice> there = cloud.byName(name);
        if (there.isPresent()) {
            cloud.change(there.get().id(), one -> one.activated(true));
            Loopback.json(exchange, 200, Map.of("id", there.get().id()));
            return;
        }
        made(exchange, name, name);
        cloud.byName(name).ifPresent(one -> cloud.change(one.id(), it -> it.activated(true)));
    }

    private void device(HttpExchange exchange, String id, String part) throws IOException {
        boolean reads = is(exchange, "GET");
        if (lacks(exchange, reads ? Right.READ_DEVICES : Right.CREATE_DEVICES)) {
            return;
        }
        Optional<CloudDevice> device = cloud.find(id);
        if (device.isEmpty()) {
            say(exchange, 404, "no device has the id " + id);
        } else if (reads) {
            Loopback.json(exchange, 200, device.get().shown());
        } else if (is(exchange, "DELETE")) {
            cloud.remove(id);
            Loopback.answer(exchange, 204, "application/json", "");
        } else {
            JsonNode said = JSON.readTree(exchange.getRequestBody().readAllBytes());
            if (part.equals("state")) {
                cloud.change(id, one -> one.activated(said.path("active").asBoolean(true)));
            } else {
                cloud.change(id, one -> one.described(JSON.convertValue(said, Object.class)));
            }
            Loopback.json(exchange, 200, cloud.find(id).orElseThrow().shown());
        }
    }

    private void measure(HttpExchange exchange, String id, boolean owner, String shown) throws IOException {
        String body = new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
        Optional<CloudDevice> device = cloud.find(id);
        boolean own = device.isPresent() && Loopback.same(shown, device.get().token());
        if (!owner && !own) {
            say(exchange, device.isPresent() ? 401 : 404, "unknown token");
        } else if (device.isEmpty()) {
            say(exchange, 404, "no device has the id " + id);
        } else if (!own && cloud.wantsOwnTokens()) {
            say(exchange, 401, "measurements are taken with the token of the device");
        } else if (!own && !cloud.granted().contains(Right.WRITE_MEASUREMENTS)) {
            say(exchange, 403, "the token lacks the right " + Right.WRITE_MEASUREMENTS.word());
        } else if (device.get().disabled() || !device.get().active()) {
            say(exchange, 423, "the device is " + device.get().shown().get("state"));
        } else {
            cloud.measured(device.get(), exchange.getRequestHeaders().getFirst("Idempotency-Key"), body);
            Loopback.json(exchange, 202, Map.of("taken", true));
        }
    }

    private boolean lacks(HttpExchange exchange, Right right) throws IOException {
        boolean lacks = !cloud.granted().contains(right);
        if (lacks) {
            say(exchange, 403, "the token lacks the right " + right.word());
        }
        return lacks;
    }

    private void mood(HttpExchange exchange) throws IOException {
        JsonNode wish = JSON.readTree(exchange.getRequestBody().readAllBytes());
        if (wish.has("rights")) {
            Set<Right> rights = EnumSet.noneOf(Right.class);
            wish.get("rights").forEach(word -> Right.of(word.asString()).ifPresent(rights::add));
            cloud.grant(rights);
        }
        if (wish.has("quota")) {
            cloud.limit(wish.get("quota").asInt());
        }
        if (wish.has("ownTokens")) {
            cloud.wantOwnTokens(wish.get("ownTokens").asBoolean());
        }
        if (wish.has("slow")) {
            answerAfter(wish.get("slow").asInt());
        }
        if (wish.has("fail")) {
            fail(wish.get("fail").asInt(), wish.path("times").asInt(1));
        }
        if (wish.has("silent")) {
            keepSilent(wish.get("silent").asInt());
        }
        if (wish.has("take")) {
            String name = wish.get("take").asString();
            try {
                cloud.create("somebody-elses-" + name, name);
            } catch (Cloud.Full e) {
                say(exchange, 402, e.getMessage());
                return;
            }
        }
        Stream.of("delete", "disable", "rename")
                .filter(wish::has)
                .forEach(what -> cloud.byKey(wish.get(what).asString())
                        .ifPresent(one -> drift(what, one, wish.path("to").asString("renamed"))));
        Loopback.json(exchange, 200, Map.of("devices", cloud.devices().size()));
    }

    private void drift(String what, CloudDevice one, String to) {
        switch (what) {
            case "delete" -> cloud.remove(one.id());
            case "disable" -> cloud.change(one.id(), it -> it.disabled(true));
            default -> cloud.change(one.id(), it -> it.named(to));
        }
    }

    private static boolean is(HttpExchange exchange, String method) {
        return exchange.getRequestMethod().equals(method);
    }

    private static Map<String, String> query(HttpExchange exchange) {
        String query = exchange.getRequestURI().getRawQuery();
        if (query == null) {
            return Map.of();
        }
        return Stream.of(query.split("&"))
                .map(pair -> pair.split("=", 2))
                .filter(pair -> pair.length == 2)
                .collect(java.util.stream.Collectors.toMap(
                        pair -> pair[0], pair -> URLDecoder.decode(pair[1], StandardCharsets.UTF_8), (a, b) -> b));
    }

    private static void say(HttpExchange exchange, int status, String message) throws IOException {
        Loopback.json(exchange, status, Map.of("message", message));
    }

    @Override
    public void close() {
        server.close();
    }
}
