package org.holtra.service.web;

import static java.nio.charset.StandardCharsets.US_ASCII;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.security.GeneralSecurityException;
import java.security.cert.Certificate;
import java.security.cert.X509Certificate;
import java.time.Duration;
import java.util.Map;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLHandshakeException;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestCertificates;
import org.holtra.service.support.TestCertificates.Pair;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The service's own port with TLS, by certificates made here. */
class TlsTest {

    @TempDir
    private static Path folder;

    private static int plain;
    private static TestService service;
    private static String tls;
    private static Certificate certificate;

    @BeforeAll
    static void start() throws IOException {
        certificate = renew("one");
        plain = freePort();
        service = TestService.start(
                TestDatabase.fresh(),
                Map.of(
                        "spring.profiles.active",
                        "tls",
                        "HOLTRA_TLS_CERTIFICATE",
                        folder.resolve("certificate.pem"),
                        "HOLTRA_TLS_KEY",
                        folder.resolve("key.pem"),
                        "holtra.plain-port",
                        plain));
        tls = service.address().replace("http:", "https:");
    }

    @AfterAll
    static void stop() {
        service.close();
    }

    /** Writes a new certificate and its key to where the service reads them; gives the certificate. */
    private static Certificate renew(String serial) throws IOException {
        Pair made = new TestCertificates(folder).selfSigned("holtra-" + serial);
        write("key.pem", made.keyPem());
        write("certificate.pem", made.pem());
        return made.certificate();
    }

    private static void write(String name, String pem) throws IOException {
        Path written = folder.resolve(name + ".new");
        Files.writeString(written, pem);
        Files.move(written, folder.resolve(name), StandardCopyOption.REPLACE_EXISTING);
    }

    private static SSLContext context(Certificate trusted) throws GeneralSecurityException {
        SSLContext context = SSLContext.getInstance("TLS");
        context.init(null, TestCertificates.trust((X509Certificate) trusted).getTrustManagers(), null);
        return context;
    }

    private static HttpClient trusting(Certificate trusted) throws GeneralSecurityException {
        return HttpClient.newBuilder().sslContext(context(trusted)).build();
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

    @Test
    void thePortSpeaksTlsAndThePlainOneSendsOnWhoLooksAndRefusesWhoSends() throws Exception {
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

    @Test
    void aSenderWithoutTlsIsRefusedAndItsInletSaysSo() throws Exception {
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
                () -> call(http, "GET", tls + "/api/v1/refusals?inlet=i", key).body(),
                body -> body.contains("not-tls"));
        assertThat(refusals).contains("rotate its secret").doesNotContain("in-token-1");
    }

    @Test
    void whoIsRefusedCanSendTheRestOfItsBodyWithTlsAndWithout() throws Exception {
        int port = URI.create(tls).getPort();
        try (Socket secure = context(certificate).getSocketFactory().createSocket("127.0.0.1", port);
                Socket insecure = new Socket("127.0.0.1", plain)) {
            assertThat(answerInTheMiddle(secure)).startsWith("HTTP/1.1 404");
            assertThat(answerInTheMiddle(insecure)).startsWith("HTTP/1.1 404");
        }
    }

    /** Sends the rest of its body once the answer begins. */
    private static String answerInTheMiddle(Socket socket) throws IOException {
        socket.setSoTimeout((int) Duration.ofMinutes(1).toMillis());
        OutputStream out = socket.getOutputStream();
        out.write("POST /in/nowhere HTTP/1.1\r\nHost: x\r\nContent-Length: 8000001\r\n\r\n{".getBytes(US_ASCII));
        String answer = new BufferedReader(new InputStreamReader(socket.getInputStream(), US_ASCII)).readLine();
        for (int sent = 0; sent < 8; sent++) {
            out.write(new byte[1_000_000]);
        }
        return answer;
    }

    @Test
    void aRenewedCertificateIsTakenUpWithoutARestart() throws Exception {
        Certificate first = certificate;
        String health = tls + "/api/v1/health";
        assertThat(call(trusting(first), "GET", health).statusCode()).isEqualTo(200);

        Certificate second = renew("two");
        certificate = second;

        String name = Client.await(() -> subject(health, first, second), subject -> subject.equals("CN=holtra-two"));
        assertThat(name)
                .isEqualTo(((X509Certificate) second).getSubjectX500Principal().getName());
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
