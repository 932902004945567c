package org.holtra.standins.authorization;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Base64;
import java.util.List;
import java.util.Random;
import java.util.concurrent.atomic.AtomicReference;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

class AuthorizationServerTest {

    private static final String VERIFIER = "a-verifier-that-nobody-guesses";
    private static final String BACK = "http://127.0.0.1:1/back";

    private final AtomicReference<Instant> now = new AtomicReference<>(Instant.now());
    private final Authorization authorization = new Authorization(now::get, new Random(1));
    private final HttpClient client = HttpClient.newHttpClient();
    private AuthorizationServer server;

    @BeforeEach
    void start() throws IOException {
        server = new AuthorizationServer(authorization, 0, List.of("Ashcombe"));
        authorization.client("holtra", "secret");
    }

    @AfterEach
    void stop() {
        server.close();
    }

    private HttpResponse<String> post(String path, String form, String secret) throws Exception {
        return client.send(
                HttpRequest.newBuilder(URI.create(server.address() + path))
                        .header(
                                "Authorization",
                                "Basic "
                                        + Base64.getEncoder()
                                                .encodeToString(("holtra:" + secret).getBytes(StandardCharsets.UTF_8)))
                        .POST(HttpRequest.BodyPublishers.ofString(form))
                        .build(),
                HttpResponse.BodyHandlers.ofString());
    }

    private JsonNode token(String form) throws Exception {
        return JsonMapper.shared().readTree(post("/token", form, "secret").body());
    }

    private String code() {
        return authorization.consent("Ashcombe", "holtra", "orders", Authorization.challenge(VERIFIER), BACK);
    }

    @Test
    void aCodeServesOnceAndOnlyWhoCanProveToHaveAskedForIt() throws Exception {
        String form = "grant_type=authorization_code&redirect_uri=" + BACK + "&code=" + code() + "&code_verifier=";

        assertThat(token(form + "another").path("error").asString()).isEqualTo("invalid_grant");
        assertThat(token(form + VERIFIER).path("error").asString()).isEqualTo("invalid_grant");
        JsonNode given = token("grant_type=authorization_code&redirect_uri=" + BACK + "&code=" + code()
                + "&code_verifier=" + VERIFIER);
        assertThat(authorization.speaksFor(given.path("access_token").asString()))
                .contains("Ashcombe");
    }

    @Test
    void refreshTokensServeOnceAndNotAfterARevocation() throws Exception {
        JsonNode first = token("grant_type=authorization_code&redirect_uri=" + BACK + "&code=" + code()
                + "&code_verifier=" + VERIFIER);
        String form = "grant_type=refresh_token&refresh_token="
                + first.path("refresh_token").asString();

        JsonNode second = token(form);
        assertThat(second.path("access_token").asString()).isNotEmpty();
        assertThat(token(form).path("error").asString()).isEqualTo("invalid_grant");
        assertThat(post("/mood", "{\"revoke\":\"Ashcombe\"}", "secret").statusCode())
                .isEqualTo(200);
        assertThat(token("grant_type=refresh_token&refresh_token="
                                + second.path("refresh_token").asString())
                        .path("error")
                        .asString())
                .isEqualTo("invalid_grant");
        assertThat(authorization.speaksFor(second.path("access_token").asString()))
                .isEmpty();
    }

    @Test
    void tokensEndWhenTheirTimeIsOver() throws Exception {
        post("/mood", "{\"lives\":5}", "secret");
        String given = token("grant_type=client_credentials&scope=orders")
                .path("access_token")
                .asString();
        assertThat(authorization.speaksFor(given)).contains("holtra");

        now.set(now.get().plusSeconds(6));

        assertThat(authorization.speaksFor(given)).isEmpty();
    }

    @Test
    void whoIsNoClientGetsNothing() throws Exception {
        assertThat(post("/token", "grant_type=client_credentials", "wrong").body())
                .contains("invalid_client");
        assertThat(post("/token", "grant_type=password", "secret").body()).contains("unsupported_grant_type");
        assertThat(post("/mood", "{\"fail\":503}", "secret").statusCode()).isEqualTo(200);
        assertThat(post("/token", "grant_type=client_credentials", "secret").statusCode())
                .isEqualTo(503);
        assertThat(client.send(
                                HttpRequest.newBuilder(URI.create(server.address() + "/authorize?client_id=other"))
                                        .build(),
                                HttpResponse.BodyHandlers.ofString())
                        .statusCode())
                .isEqualTo(400);
    }
}
