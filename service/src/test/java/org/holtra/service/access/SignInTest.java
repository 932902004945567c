package org.holtra.service.access;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.net.CookieManager;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.stream.IntStream;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;

class SignInTest extends ServiceTest {

    private final CookieManager cookies = new CookieManager();
    private final HttpClient browser =
            HttpClient.newBuilder().cookieHandler(cookies).build();

    private HttpRequest.Builder request(String method, String path, String body) {
        HttpRequest.Builder request = HttpRequest.newBuilder(URI.create(service.address() + path))
                .method(method, HttpRequest.BodyPublishers.ofString(body))
                .header("Content-Type", "application/json");
        token().ifPresent(token -> request.header("X-XSRF-TOKEN", token));
        return request;
    }

    private java.util.Optional<String> token() {
        return cookies.getCookieStore().getCookies().stream()
                .filter(cookie -> cookie.getName().equals("XSRF-TOKEN"))
                .map(java.net.HttpCookie::getValue)
                .findFirst();
    }

    private HttpResponse<String> browse(String method, String path, String body) {
        try {
            return browser.send(request(method, path, body).build(), HttpResponse.BodyHandlers.ofString());
        } catch (IOException e) {
            throw new java.io.UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    private HttpResponse<String> signIn(String name, String password) {
        return browse(
                "POST", "/api/v1/session", Client.JSON.writeValueAsString(Map.of("name", name, "password", password)));
    }

    @Test
    void guessingIsAnsweredWithLongerAndLongerPauses() {
        browse("GET", "/api/v1/session", "");
        List<Integer> statuses = new ArrayList<>();
        for (int i = 0; i < 121; i++) {
            statuses.add(signIn("admin", "wrong-" + i).statusCode());
        }

        assertThat(statuses).startsWith(401, 401, 401, 401, 401).contains(429);
        assertThat(statuses.stream().filter(status -> status == 401)).hasSizeLessThan(12);
        HttpResponse<String> refused =
                Client.await(() -> signIn("admin", "wrong"), answer -> answer.statusCode() == 429);
        assertThat(refused.headers().firstValue("Retry-After")).isPresent();
        assertThat(refused.body()).contains("There were too many attempts. Try again in ");

        // After the pause the right password is good, and ends the pauses.
        Client.await(() -> signIn("admin", service.password()), answer -> answer.statusCode() == 200);
        assertThat(signIn("admin", "wrong").statusCode()).isEqualTo(401);
    }

    @Test
    void manyAtOnceDoNotKeepInletsWaiting() {
        Client.good(client.adopt("inlets:\n  s: {kind: http, at: {path: s, credential: sender}}\n"));
        browse("GET", "/api/v1/session", "");
        List<CompletableFuture<HttpResponse<String>>> all = IntStream.range(0, 80)
                .mapToObj(i -> browser.sendAsync(
                        request("POST", "/api/v1/session", "{\"name\":\"n" + i + "\",\"password\":\"x\"}")
                                .build(),
                        HttpResponse.BodyHandlers.ofString()))
                .toList();

        assertThat(client.call("POST", "/in/s", "{}".getBytes(), "Authorization", "Bearer in-token-1")
                        .status())
                .isEqualTo(202);
        List<Integer> statuses = all.stream()
                .map(CompletableFuture::join)
                .map(HttpResponse::statusCode)
                .toList();
        assertThat(statuses).containsOnly(401, 429).contains(429);
    }

    @Test
    void aNameOfManyMegabytesIsRefusedUnread() {
        HttpResponse<String> answer = signIn("x".repeat(5_000), "x");

        assertThat(answer.statusCode()).isIn(403, 413);
        browse("GET", "/api/v1/session", "");
        assertThat(signIn("x".repeat(5_000), "x").statusCode()).isEqualTo(413);
        assertThat(signIn("x".repeat(300), "x").statusCode()).isEqualTo(400);
    }

    @Test
    void aTokenOfAnotherSessionIsNone() {
        browse("GET", "/api/v1/session", "");
        String before = token().orElseThrow();
        assertThat(signIn("admin", service.password()).statusCode()).isEqualTo(200);
        assertThat(token()).isPresent().get().isNotEqualTo(before);

        cookies.getCookieStore().getCookies().stream()
                .filter(cookie -> cookie.getName().equals("XSRF-TOKEN"))
                .forEach(cookie -> cookie.setValue(before));

        assertThat(browse("DELETE", "/api/v1/session", "").statusCode()).isEqualTo(403);
    }

    @Test
    void aStreamEndsWhenItsReaderSignsOutOrItsKeyIsRemoved() throws Exception {
        browse("GET", "/api/v1/session", "");
        signIn("admin", service.password());
        BufferedReader ofPerson = stream(browser, request("GET", "/api/v1/live", ""));
        String key = Client.good(client.post("/api/v1/keys/reader", Map.of()))
                .json()
                .path("key")
                .asString();
        BufferedReader ofKey = stream(
                HttpClient.newHttpClient(),
                HttpRequest.newBuilder(URI.create(service.address() + "/api/v1/live"))
                        .header("Authorization", "Bearer " + key));

        assertThat(browse("DELETE", "/api/v1/session", "").statusCode()).isEqualTo(204);
        Client.good(client.keyed("DELETE", "/api/v1/keys/reader", null, "application/json"));

        assertThat(ofPerson.lines().count()).isNotNegative();
        assertThat(ofKey.lines().count()).isNotNegative();
    }

    private static BufferedReader stream(HttpClient client, HttpRequest.Builder request) throws Exception {
        HttpResponse<java.io.InputStream> answer =
                client.send(request.build(), HttpResponse.BodyHandlers.ofInputStream());
        assertThat(answer.statusCode()).isEqualTo(200);
        BufferedReader lines = new BufferedReader(new InputStreamReader(answer.body()));
        assertThat(lines.readLine()).startsWith(":");
        return lines;
    }
}
