package org.holtra.standins.desk;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Instant;
import java.util.concurrent.atomic.AtomicReference;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class DeskServerTest {

    private final AtomicReference<Instant> now = new AtomicReference<>(Instant.now());
    private final Desk desk = new Desk(now::get);
    private final HttpClient client = HttpClient.newHttpClient();
    private DeskServer server;

    @BeforeEach
    void start() throws IOException {
        server = new DeskServer(desk, 0, "token", "board-key");
    }

    @AfterEach
    void stop() {
        server.close();
    }

    private HttpResponse<String> post(String path, String body, String... headers) throws Exception {
        HttpRequest.Builder request = HttpRequest.newBuilder(URI.create("http://127.0.0.1:" + server.port() + path))
                .POST(HttpRequest.BodyPublishers.ofString(body));
        if (headers.length > 0) {
            request.headers(headers);
        }
        return client.send(request.build(), HttpResponse.BodyHandlers.ofString());
    }

    private HttpResponse<String> order(String key) throws Exception {
        return post("/orders/frost", "{\"row\":4}", "Authorization", "Bearer token", "Idempotency-Key", key);
    }

    @Test
    void takesAnOrderOnceHoweverOftenItComes() throws Exception {
        assertThat(order("a").statusCode()).isEqualTo(201);
        assertThat(order("a").body()).isEqualTo(order("a").body());
        order("b");

        assertThat(desk.count()).isEqualTo(new Desk.Count(4, 2, 2));
        assertThat(desk.keys()).containsEntry("a", 3).containsEntry("b", 1);
    }

    @Test
    void eachDoorHasItsOwnKey() throws Exception {
        assertThat(post("/orders", "{}", "Authorization", "token", "Idempotency-Key", "a")
                        .statusCode())
                .isEqualTo(401);
        assertThat(post("/board", "{}", "X-Board-Key", "board-key", "Idempotency-Key", "a")
                        .statusCode())
                .isEqualTo(201);
        assertThat(post("/orders", "{}", "Authorization", "Bearer token").statusCode())
                .isEqualTo(400);
    }

    @ParameterizedTest
    @ValueSource(ints = {500, 429, 401, 403, 422})
    void behavesAsItIsToldAndForAsLong(int status) throws Exception {
        assertThat(post("/mood", "{\"mood\":\"" + status + "\",\"seconds\":30}").statusCode())
                .isEqualTo(200);
        HttpResponse<String> answer = order("a");
        assertThat(answer.statusCode()).isEqualTo(status);
        assertThat(answer.headers().firstValue("Retry-After").isPresent()).isEqualTo(status == 429);
        assertThat(post("/board", "{}", "X-Board-Key", "board-key", "Idempotency-Key", "b")
                        .statusCode())
                .isEqualTo(201);

        now.set(now.get().plusSeconds(60));
        assertThat(order("a").statusCode()).isEqualTo(201);
    }

    @Test
    void dropsConnections() throws Exception {
        post("/mood", "{\"mood\":\"drop\"}");

        assertThatThrownBy(() -> order("a")).isInstanceOf(IOException.class);
        assertThat(desk.count().received()).isZero();
    }

    @Test
    void refusesOneDeviceOnly() throws Exception {
        post("/mood", "{\"mood\":\"403\",\"device\":\"\\\"row\\\":4\"}");

        assertThat(order("a").statusCode()).isEqualTo(403);
        assertThat(post("/orders", "{\"row\":5}", "Authorization", "Bearer token", "Idempotency-Key", "b")
                        .statusCode())
                .isEqualTo(201);
    }

    @Test
    void saysWhatMoodsThereAre() throws Exception {
        assertThat(post("/mood", "{\"mood\":\"sulky\"}").body()).contains("well, slow, 500");
        assertThat(post("/mood", "sulky").statusCode()).isEqualTo(400);
    }
}
