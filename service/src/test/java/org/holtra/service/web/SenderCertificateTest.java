package org.holtra.service.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestCertificates;
import org.holtra.service.support.TestCertificates.Pair;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** An inlet that checks its senders by the certificates they show. */
class SenderCertificateTest {

    @TempDir
    private Path folder;

    private HttpResponse<String> call(HttpClient http, String method, String address, String body, String... headers) {
        try {
            HttpRequest.Builder request = HttpRequest.newBuilder(URI.create(address))
                    .method(method, HttpRequest.BodyPublishers.ofString(body));
            return http.send(request.headers(headers).build(), HttpResponse.BodyHandlers.ofString());
        } catch (IOException e) {
            throw new java.io.UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    @Test
    void onlyCertificatesOfItsAuthorityAndItsNameAreTakenAndEachRefusalSaysWhy() throws Exception {
        TestCertificates made = new TestCertificates(folder);
        Pair server = made.selfSigned("service");
        Pair authority = made.authority("gateways-authority");
        Files.writeString(folder.resolve("certificate.pem"), server.pem());
        Files.writeString(folder.resolve("key.pem"), server.keyPem());
        try (TestService service = TestService.start(
                TestDatabase.fresh(),
                Map.of(
                        "spring.profiles.active",
                        "tls",
                        "HOLTRA_TLS_CERTIFICATE",
                        folder.resolve("certificate.pem"),
                        "HOLTRA_TLS_KEY",
                        folder.resolve("key.pem"),
                        "holtra.client-certificates",
                        true))) {
            String tls = service.address().replace("http:", "https:");
            HttpClient nobody =
                    HttpClient.newBuilder().sslContext(trusting(server)).build();
            String[] key = {"Authorization", "Bearer " + service.key(), "Content-Type", "application/json"};
            call(
                    nobody,
                    "PUT",
                    tls + "/api/v1/credentials/gateways",
                    Client.JSON.writeValueAsString(
                            Map.of("form", "authority", "authority", authority.pem(), "name", "gateway-1")),
                    key);
            HttpResponse<String> adopted = call(
                    nobody,
                    "POST",
                    tls + "/api/v1/setup/adopt",
                    "inlets: {i: {kind: http, at: {path: i, credential: gateways}, device: data.id}}",
                    "Authorization",
                    key[1],
                    "Content-Type",
                    "application/yaml");
            assertThat(adopted.statusCode()).as(adopted.body()).isEqualTo(200);

            assertThat(sent(service, made.signed("gateway-1", authority), server))
                    .contains("202");
            assertThat(sent(service, made.signed("gateway-2", authority), server))
                    .contains("401", "is for gateway-2; the inlet wants gateway-1");
            assertThat(sent(service, made.selfSigned("foreign"), server))
                    .contains("401", "is signed by CN=foreign, which is not the inlet's authority");
            assertThat(sent(service, made.signed("late", authority, "-startdate", "-10d", "-validity", "2"), server))
                    .contains("401", "has expired");
            assertThat(sent(service, made.signed("desk", authority, "-ext", "eku=serverAuth"), server))
                    .contains("401", "made for servers");
            HttpResponse<String> without =
                    call(nobody, "POST", tls + "/in/i", "{\"id\":\"a\"}", "Content-Type", "application/json");
            assertThat(without.statusCode()).isEqualTo(401);
            assertThat(without.body()).contains("The sender showed no certificate");

            String refusals = Client.await(
                    () -> call(nobody, "GET", tls + "/api/v1/refusals?inlet=i", "", key)
                            .body(),
                    body -> body.contains("showed no certificate"));
            assertThat(refusals).contains("\"slip\":\"certificate\"");
        }
    }

    private static javax.net.ssl.SSLContext trusting(Pair server) throws Exception {
        javax.net.ssl.SSLContext context = javax.net.ssl.SSLContext.getInstance("TLS");
        context.init(null, TestCertificates.trust(server.certificate()).getTrustManagers(), null);
        return context;
    }

    /** The status and the body of the answer. */
    private String sent(TestService service, Pair sender, Pair server) {
        try (HttpClient http = HttpClient.newBuilder()
                .sslContext(sender.context(server.certificate()))
                .build()) {
            HttpResponse<String> answer = call(
                    http,
                    "POST",
                    service.address().replace("http:", "https:") + "/in/i",
                    "{\"id\":\"a\"}",
                    "Content-Type",
                    "application/json");
            return answer.statusCode() + " " + answer.body();
        }
    }
}
