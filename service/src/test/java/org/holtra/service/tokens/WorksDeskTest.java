package org.holtra.service.tokens;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.holtra.service.support.Client;
import org.holtra.service.support.SharedServiceTest;
import org.holtra.standins.authorization.Authorization;
import org.holtra.standins.authorization.AuthorizationServer;
import org.holtra.standins.desk.Desk;
import org.holtra.standins.desk.DeskServer;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import tools.jackson.databind.JsonNode;

/** With an authorization server, and a works desk that takes orders in somebody's name only. */
abstract class WorksDeskTest extends SharedServiceTest {

    private static int tests;

    /** Each test has an outlet of its own: what is held or blocked outlives the setup. */
    final String outlet = "desk-" + ++tests;

    final Authorization authorization = new Authorization(InstantSource.system(), new Random(1));
    final Desk desk = new Desk(InstantSource.system());
    final HttpClient browser = HttpClient.newHttpClient();
    AuthorizationServer server;
    DeskServer works;

    @BeforeEach
    void startServers() throws IOException {
        server = new AuthorizationServer(authorization, 0, List.of("Ashcombe", "Birkholt"));
        works = new DeskServer(desk, 0, "-", "-", authorization::speaksFor);
        authorization.client("holtra", "a-client-secret");
        saveClient();
        adopt("credential: desk", "");
    }

    void saveClient() {
        client.save(
                "desk",
                Map.of(
                        "form", "client",
                        "tokenUrl", server.address() + "/token",
                        "clientId", "holtra",
                        "clientSecret", "a-client-secret",
                        "scope", "orders"));
    }

    @AfterEach
    void closeServers() {
        server.close();
        works.close();
    }

    void adopt(String credential, String more) {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id, unknown: {facts: {orchard: data.orchard}}}
                outlets:
                  %s:
                    kind: http
                    to: {url: "http://127.0.0.1:%d/own", %s}
                    %s
                lanes:
                  l: {inlets: [i], outlet: %1$s, order: device, retry: {first: 100ms}, shape: {body: {n: "${data.n}"}}}
                """.formatted(outlet, works.port(), credential, more)));
    }

    String send(String device, String orchard, int n) {
        return client.send("i", "{\"id\":\"%s\",\"orchard\":\"%s\",\"n\":%d}".formatted(device, orchard, n));
    }

    List<String> inWhoseName() {
        return desk.orders().reversed().stream().map(Desk.Order::door).toList();
    }

    JsonNode outlet() {
        return client.get("/api/v1/outlets").get(0);
    }

    JsonNode standing(String credential) {
        for (JsonNode one : client.get("/api/v1/credentials")) {
            if (one.path("name").asString().equals(credential)) {
                return one.path("token");
            }
        }
        throw new AssertionError("no credential " + credential);
    }

    void adoptTo(String address) {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}}
                outlets:
                  %s: {kind: http, to: {url: "%s", credential: desk}}
                lanes:
                  l: {inlets: [i], outlet: %1$s}
                """.formatted(outlet, address)));
    }

    void saveGrant(String orchard) {
        client.save(
                orchard.toLowerCase(java.util.Locale.ROOT) + "-desk",
                Map.of(
                        "form", "grant",
                        "authorizeUrl", server.address() + "/authorize",
                        "tokenUrl", server.address() + "/token",
                        "clientId", "holtra",
                        "clientSecret", "a-client-secret",
                        "scope", "orders",
                        "owner", orchard));
    }

    HttpResponse<String> open(String address) throws Exception {
        return browser.send(HttpRequest.newBuilder(URI.create(address)).build(), HttpResponse.BodyHandlers.ofString());
    }

    HttpResponse<String> consent(String orchard, String said) throws Exception {
        String link = Client.good(client.post(
                        "/api/v1/credentials/" + orchard.toLowerCase(java.util.Locale.ROOT) + "-desk/link", Map.of()))
                .json()
                .path("address")
                .asString();
        assertThat(open(link).body()).contains("<b>" + orchard + "</b>", "<code>orders</code>");
        String there = open(link + "/begin").headers().firstValue("Location").orElseThrow();
        Map<String, String> fields = Pattern.compile("name=\"([^\"]+)\" value=\"([^\"]*)\"")
                .matcher(open(there).body())
                .results()
                .collect(Collectors.toMap(
                        one -> one.group(1), one -> one.group(2).replace("&amp;", "&")));
        String form = fields.entrySet().stream()
                .map(one -> one.getKey() + "=" + URLEncoder.encode(one.getValue(), StandardCharsets.UTF_8))
                .collect(Collectors.joining("&"));
        HttpResponse<String> answered = browser.send(
                HttpRequest.newBuilder(URI.create(server.address() + "/authorize"))
                        .header("Content-Type", "application/x-www-form-urlencoded")
                        .POST(HttpRequest.BodyPublishers.ofString(form + "&owner=" + orchard + "&said=" + said))
                        .build(),
                HttpResponse.BodyHandlers.ofString());
        return open(answered.headers().firstValue("Location").orElseThrow());
    }
}
