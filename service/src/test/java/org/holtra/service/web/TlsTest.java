package org.holtra.service.web;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyStore;
import java.security.cert.Certificate;
import java.security.cert.X509Certificate;
import java.time.Duration;
import java.util.Base64;
import java.util.Map;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLHandshakeException;
import javax.net.ssl.TrustManagerFactory;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The service's own port with TLS, by certificates made here. */
class TlsTest {

    private static final char[] PASSWORD = "made-up".toCharArray();

    @TempDir
    private Path folder;

    /** Writes a new certificate and its key to where the service reads them; gives the certificate. */
    private Certificate renew(String serial) throws Exception {
        Path store = folder.resolve(serial + ".p12");
        Process keytool = new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "keytool")
                                .toString(),
                        "-genkeypair",
                        "-alias",
                        "a",
                        "-keyalg",
                        "EC",
                        "-dname",
                        "CN=holtra " + serial,
                        "-ext",
                        "san=ip:127.0.0.1,dns:localhost",
                        "-storetype",
                        "PKCS12",
                        "-keystore",
                        store.toString(),
                        "-storepass",
                        new String(PASSWORD),
                        "-validity",
                        "2")
                .redirectErrorStream(true)
                .start();
        assertThat(keytool.waitFor())
                .as(new String(keytool.getInputStream().readAllBytes()))
                .isZero();
        KeyStore keys = KeyStore.getInstance(store.toFile(), PASSWORD);
        write("key.pem", "PRIVATE KEY", keys.getKey("a", PASSWORD).getEncoded());
        write("certificate.pem", "CERTIFICATE", keys.getCertificate("a").getEncoded());
        return keys.getCertificate("a");
    }

    private void write(String name, String what, byte[] der) throws IOException {
        Path written = folder.resolve(name + ".new");
        Files.writeString(
                written,
                "-----BEGIN " + what + "-----\n"
                        + Base64.getMimeEncoder(64, new byte[] {'\n'}).encodeToString(der) + "\n-----END " + what
                        + "-----\n");
        Files.move(written, folder.resolve(name), java.nio.file.StandardCopyOption.REPLACE_EXISTING);
    }

    private static HttpClient trusting(Certificate certificate) throws Exception {
        KeyStore trusted = KeyStore.getInstance("PKCS12");
        trusted.load(null, null);
        trusted.setCertificateEntry("a", certificate);
        TrustManagerFactory trust = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
        trust.init(trusted);
        SSLContext context = SSLContext.getInstance("TLS");
        context.init(null, trust.getTrustManagers(), null);
        return HttpClient.newBuilder().sslContext(context).build();
    }

    private static HttpResponse<String> call(HttpClient http, String method, String address, String... headers) {
        HttpRequest.Builder request = HttpRequest.newBuilder(URI.create(address))
                .timeout(Duration.ofMinutes(1))
                .method(method, HttpRequest.BodyPublishers.ofString(method.equals("GET") ? "" : "{\"id\":\"a\"}"));
        if (headers.length > 0) {
            request.headers(headers);
        }
        try {
            return http.send(request.build(), HttpResponse.BodyHandlers.ofString());
        } catch (IOException e) {
            throw new java.io.UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    private static int freePort() throws IOException {
        try (ServerSocket socket = new ServerSocket(0, 1, InetAddress.getLoopbackAddress())) {
            return socket.getLocalPort();
        }
    }

    private TestService start(int plainPort) {
        return TestService.start(
                TestDatabase.fresh(),
                Map.of(
                        "spring.profiles.active",
                        "tls",
                        "HOLTRA_TLS_CERTIFICATE",
                        folder.resolve("certificate.pem"),
                        "HOLTRA_TLS_KEY",
                        folder.resolve("key.pem"),
                        "holtra.plain-port",
                        plainPort));
    }

    @Test
    void thePortSpeaksTlsAndThePlainOneSendsOnWhoLooksAndRefusesWhoSends() throws Exception {
        Certificate certificate = renew("one");
        int plain = freePort();
        try (TestService service = start(plain)) {
            String tls = service.address().replace("http:", "https:");
            HttpClient http = trusting(certificate);

            assertThat(call(http, "GET", tls + "/api/v1/health").statusCode()).isEqualTo(200);
            assertThatThrownBy(() -> call(HttpClient.newHttpClient(), "GET", tls + "/api/v1/health"))
                    .hasCauseInstanceOf(SSLHandshakeException.class);

            HttpResponse<String> sentOn = call(http, "GET", "http://127.0.0.1:" + plain + "/overview?a=1");
            assertThat(sentOn.statusCode()).isEqualTo(308);
            assertThat(sentOn.headers().firstValue("Location")).contains(tls + "/overview?a=1");
            HttpResponse<String> refused = call(http, "POST", "http://127.0.0.1:" + plain + "/api/v1/session");
            assertThat(refused.statusCode()).isEqualTo(403);
            assertThat(Client.JSON.readTree(refused.body()).path("detail").asString())
                    .contains(tls + "/api/v1/session");
        }
    }

    @Test
    void aSenderWithoutTlsIsRefusedAndItsInletSaysSo() throws Exception {
        Certificate certificate = renew("one");
        int plain = freePort();
        try (TestService service = start(plain)) {
            String tls = service.address().replace("http:", "https:");
            HttpClient http = trusting(certificate);
            String[] key = {"Authorization", "Bearer " + service.key(), "Content-Type", "application/yaml"};
            http.send(
                    HttpRequest.newBuilder(URI.create(tls + "/api/v1/credentials/sender"))
                            .headers("Authorization", key[1], "Content-Type", "application/json")
                            .PUT(HttpRequest.BodyPublishers.ofString("{\"form\":\"bearer\",\"token\":\"in-token-1\"}"))
                            .build(),
                    HttpResponse.BodyHandlers.discarding());
            http.send(
                    HttpRequest.newBuilder(URI.create(tls + "/api/v1/setup/adopt"))
                            .headers(key)
                            .POST(HttpRequest.BodyPublishers.ofString(
                                    "inlets: {i: {kind: http, at: {path: i, credential: sender}, device: data.id}}"))
                            .build(),
                    HttpResponse.BodyHandlers.discarding());
            String[] sender = {"Authorization", "Bearer in-token-1", "Content-Type", "application/json"};

            assertThat(call(http, "POST", tls + "/in/i", sender).statusCode()).isEqualTo(202);
            assertThat(call(http, "POST", "http://127.0.0.1:" + plain + "/in/i", sender)
                            .statusCode())
                    .isEqualTo(403);

            String refusals = Client.await(
                    () -> call(http, "GET", tls + "/api/v1/refusals?inlet=i", key)
                            .body(),
                    body -> body.contains("not-tls"));
            assertThat(refusals).contains("rotate its secret").doesNotContain("in-token-1");
        }
    }

    @Test
    void aRenewedCertificateIsTakenUpWithoutARestart() throws Exception {
        Certificate first = renew("one");
        try (TestService service = start(0)) {
            String health = service.address().replace("http:", "https:") + "/api/v1/health";
            assertThat(call(trusting(first), "GET", health).statusCode()).isEqualTo(200);

            Certificate second = renew("two");

            String name =
                    Client.await(() -> subject(health, first, second), subject -> subject.equals("CN=holtra two"));
            assertThat(name)
                    .isEqualTo(
                            ((X509Certificate) second).getSubjectX500Principal().getName());
        }
    }

    /** Of the certificate that the service shows now. */
    private static String subject(String address, Certificate first, Certificate second) {
        for (Certificate one : new Certificate[] {second, first}) {
            try {
                return ((X509Certificate) call(trusting(one), "GET", address)
                                .sslSession()
                                .orElseThrow()
                                .getPeerCertificates()[0])
                        .getSubjectX500Principal()
                        .getName();
            } catch (java.io.UncheckedIOException e) {
                continue; // it shows the other one
            } catch (Exception e) {
                throw new IllegalStateException(e);
            }
        }
        return "";
    }
}
