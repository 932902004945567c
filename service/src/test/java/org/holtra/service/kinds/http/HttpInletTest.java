package org.holtra.service.kinds.http;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.InputStream;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Base64;
import java.util.Map;
import org.holtra.core.message.MessageId;
import org.holtra.service.support.Client;
import org.holtra.service.support.Client.Answer;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.JsonNode;

class HttpInletTest {

    private static final String SIGNING =
            "whsec_" + Base64.getEncoder().encodeToString("0123456789abcdef0123456789".getBytes());

    private static final TestService SERVICE = TestService.shared();
    private static final Client CLIENT = SERVICE.client();

    @BeforeAll
    static void setUp() {
        CLIENT.save("in-bearer", Map.of("form", "bearer", "token", "open-sesame-1"));
        CLIENT.save("in-basic", Map.of("form", "basic", "user", "mast", "password", "p:ss"));
        CLIENT.save("in-header", Map.of("form", "header", "name", "X-Door", "value", "door-key-1"));
        CLIENT.save("in-signature", Map.of("form", "signature", "secret", SIGNING));
        Client.good(CLIENT.adopt("""
                inlets:
                  bearer:
                    kind: http
                    at: {path: t/bearer, credential: in-bearer, maxBytes: 1000, contentTypes: [application/json],
                         headers: [X-Note, Authorization]}
                    device: data.id
                    simulated: "'sim' in data"
                  basic: {kind: http, at: {path: t/basic, credential: in-basic}}
                  meters: {kind: http, at: {path: "t/meters/{meter}", credential: in-bearer}, device: meta.path.meter,
                           meta: {row: meta.query.row}}
                  header: {kind: http, at: {path: t/header, credential: in-header}}
                  signature: {kind: http, at: {path: t/signature, credential: in-signature}}
                """));
    }

    private static Answer bearer(String body, String... more) {
        String[] headers = new String[4 + more.length];
        System.arraycopy(
                new String[] {"Authorization", "Bearer open-sesame-1", "Content-Type", "application/json; charset=utf-8"
                },
                0,
                headers,
                0,
                4);
        System.arraycopy(more, 0, headers, 4, more.length);
        return CLIENT.call("POST", "/in/t/bearer", body.getBytes(StandardCharsets.UTF_8), headers);
    }

    private static void assertProblem(Answer answer, int status, String detail) {
        assertThat(answer.status()).isEqualTo(status);
        assertThat(answer.header("Content-Type")).startsWith("application/problem+json");
        assertThat(answer.json().path("status").asInt()).isEqualTo(status);
        assertThat(answer.json().path("detail").asString()).contains(detail);
    }

    @Test
    void answers202WithTheIdOfAMessageThatIsKept() {
        Answer answer = bearer("{\"id\":\"inlet-1\",\"sim\":1}");

        assertThat(answer.status()).isEqualTo(202);
        String id = answer.json().path("id").asString();
        assertThat(SERVICE.database()
                        .texts("select device || ' ' || simulated from message where id = '" + MessageId.parse(id)
                                + "'"))
                .containsExactly("inlet-1 true");
    }

    @Test
    void segmentsOfThePathAndTheQueryAreReadByName() {
        Answer answer = CLIENT.call(
                "POST",
                "/in/t/meters/M-7?row=12&token=secret-1",
                "{\"t\":1}".getBytes(StandardCharsets.UTF_8),
                "Authorization",
                "Bearer open-sesame-1",
                "Content-Type",
                "application/json");

        assertThat(answer.status()).isEqualTo(202);
        JsonNode trace = CLIENT.trace(answer.json().path("id").asString());
        assertThat(trace.at("/message/device").asString()).isEqualTo("M-7");
        assertThat(trace.at("/meta/row").asString()).isEqualTo("12");
        assertThat(trace.at("/came/address").asString()).isEqualTo("/in/t/meters/M-7?row=12&token=•••");
        assertThat(trace.at("/came/fields/path/meter").asString()).isEqualTo("M-7");
        assertThat(trace.toString()).doesNotContain("secret-1");
    }

    @Test
    void anUnknownDeviceAppearsByItself() {
        String key = "appears/" + Instant.now();

        assertThat(bearer("{\"id\":\"" + key + "\"}").status()).isEqualTo(202);

        assertThat(SERVICE.database().texts("select key from device where key = '" + key + "'"))
                .hasSize(1);
        assertThat(CLIENT.get("/api/v1/devices").toString()).contains(key);
    }

    @Test
    void whatCannotBeReadIsKeptWithItsReasonAndStillAnswered202() {
        Answer answer = bearer("{\"id\": ");

        assertThat(answer.status()).isEqualTo(202);
        JsonNode trace = CLIENT.trace(answer.json().path("id").asString());
        assertThat(trace.at("/message/state").asString()).isEqualTo("unreadable");
        assertThat(trace.at("/message/reason").asString()).contains("not JSON").contains("line 1");
        assertThat(trace.at("/came/text").asString()).isEqualTo("{\"id\": ");
    }

    @Test
    void bytesThatAreNoTextAreKeptAsTheyAre() {
        byte[] body = {(byte) 0xff, 0, (byte) 0xfe, '{'};

        Answer answer = CLIENT.call(
                "POST",
                "/in/t/bearer",
                body,
                "Authorization",
                "Bearer open-sesame-1",
                "Content-Type",
                "application/json");

        JsonNode trace = CLIENT.trace(answer.json().path("id").asString());
        assertThat(Base64.getDecoder().decode(trace.at("/came/base64").asString()))
                .isEqualTo(body);
    }

    @Test
    void secretsAreTakenOutOfWhatIsKept() {
        String id = bearer("{\"id\":\"s\"}", "Cookie", "session=abc", "X-Note", "kept", "X-Auth-Token", "told-nobody")
                .json()
                .path("id")
                .asString();

        JsonNode headers = CLIENT.trace(id).at("/came/fields/headers");
        assertThat(headers.path("x-note").asString()).isEqualTo("kept");
        assertThat(headers.has("authorization")).isFalse();
        assertThat(headers.has("cookie")).isFalse();
        assertThat(headers.path("holtra-not-kept").asString()).isEqualTo("x-auth-token");
        String door = CLIENT.call("POST", "/in/t/header", "{}".getBytes(), "X-Door", "door-key-1")
                .json()
                .path("id")
                .asString();
        assertThat(CLIENT.trace(door).toString()).doesNotContain("door-key-1");
        String query = CLIENT.call("POST", "/in/t/header?token=door-2&row=7", "{}".getBytes(), "X-Door", "door-key-1")
                .json()
                .path("id")
                .asString();
        assertThat(CLIENT.trace(query).toString()).contains("row=7").doesNotContain("door-2");
    }

    @ParameterizedTest
    @CsvSource({
        "/in/t/bearer, Authorization, Bearer wrong",
        "/in/t/bearer, Authorization, open-sesame-1",
        "/in/t/bearer, X-Other, x",
        "/in/t/basic, Authorization, Basic bWFzdDp3cm9uZw==",
        "/in/t/header, X-Door, wrong",
        "/in/t/signature, X-Other, x"
    })
    void answers401ToASenderItCannotCheck(String path, String header, String value) {
        Answer answer = CLIENT.call("POST", path, "{}".getBytes(), header, value);

        assertProblem(answer, 401, "");
        assertThat(answer.header("WWW-Authenticate")).isNotBlank();
        assertThat(answer.body()).doesNotContain("open-sesame-1").doesNotContain("door-key-1");
    }

    @Test
    void takesBasicAndHeaderCredentials() {
        String basic = "Basic " + Base64.getEncoder().encodeToString("mast:p:ss".getBytes());

        assertThat(CLIENT.call("POST", "/in/t/basic", "{}".getBytes(), "Authorization", basic)
                        .status())
                .isEqualTo(202);
        assertThat(CLIENT.call("PUT", "/in/t/header", "{}".getBytes(), "x-door", "door-key-1")
                        .status())
                .isEqualTo(202);
    }

    @Test
    void acceptsTheSecretBeforeARotationForAsLongAsTheOverlapSays() {
        CLIENT.save("in-header", Map.of("form", "bearer", "token", "before-the-change"));
        String first = rotated("30d");

        assertThat(header("before-the-change")).isEqualTo(202);
        assertThat(header(first)).isEqualTo(202);

        String second = rotated("1ms");
        assertThat(header("before-the-change")).as("a secret two rotations old").isEqualTo(401);
        assertThat(Client.await(() -> header(first), status -> status == 401)).isEqualTo(401);
        assertThat(header(second)).isEqualTo(202);

        assertThat(CLIENT.post("/api/v1/credentials/in-header/rotate?overlap=31d", Map.of())
                        .status())
                .isEqualTo(400);
        assertThat(CLIENT.post("/api/v1/credentials/nobody/rotate", Map.of()).status())
                .isEqualTo(404);
        CLIENT.save("in-header", Map.of("form", "header", "name", "X-Door", "value", "door-key-1"));
    }

    private static String rotated(String overlap) {
        return Client.good(CLIENT.post("/api/v1/credentials/in-header/rotate?overlap=" + overlap, Map.of()))
                .json()
                .path("secret")
                .asString();
    }

    private static int header(String token) {
        return CLIENT.call("POST", "/in/t/header", "{}".getBytes(), "Authorization", "Bearer " + token)
                .status();
    }

    private static Answer signed(String body, long timestamp, String signedBody) {
        return signed(body, timestamp, signedBody, "msg_1");
    }

    private static Answer signed(String body, long timestamp, String signedBody, String id) {
        String signature = new String(WebhookSignature.sign(
                SIGNING, id, Long.toString(timestamp), signedBody.getBytes(StandardCharsets.UTF_8)));
        return CLIENT.call(
                "POST",
                "/in/t/signature",
                body.getBytes(StandardCharsets.UTF_8),
                "webhook-id",
                id,
                "webhook-timestamp",
                Long.toString(timestamp),
                "webhook-signature",
                "v1,AAAA v1," + signature);
    }

    @Test
    void aSignedRequestThatComesAgainIsTheSameMessage() {
        long now = Instant.now().getEpochSecond();
        String body = "{\"again\":" + System.nanoTime() + "}";

        Answer first = signed(body, now, body, "msg_again");
        assertThat(first.status()).isEqualTo(202);
        assertThat(signed(body, now, body, "msg_again").body()).isEqualTo(first.body());
        assertThat(signed(body, now, body, "msg_again").body()).isEqualTo(first.body());
        assertThat(signed(body, now, body, "msg_other").body()).isNotEqualTo(first.body());
    }

    @Test
    void checksSignaturesOfTheBody() {
        long now = Instant.now().getEpochSecond();

        assertThat(signed("{\"a\":1}", now, "{\"a\":1}").status()).isEqualTo(202);
        assertProblem(signed("{\"a\":2}", now, "{\"a\":1}"), 401, "None of the signatures");
        assertProblem(signed("{\"a\":1}", now - 3600, "{\"a\":1}"), 401, "5 minutes away");
    }

    @Test
    void signsIdTimestampAndBodyAsTheStandardSays() {
        // Worked out apart from this code, by HMAC-SHA256 over `msg_1.1614265330.{"test": 2432232314}`.
        byte[] signature = WebhookSignature.sign(
                "whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw",
                "msg_1",
                "1614265330",
                "{\"test\": 2432232314}".getBytes(StandardCharsets.UTF_8));

        assertThat(new String(signature, StandardCharsets.US_ASCII))
                .isEqualTo("9o7UeFkn1GjVbcY4emAJruJCYqgH2EIf8u/slvVRBZI=");
    }

    @Test
    void answers404WhereThereIsNoInlet() {
        assertProblem(CLIENT.call("POST", "/in/t/none", "{}".getBytes()), 404, "t/none");
    }

    @Test
    void answers405ToOtherMethods() {
        Answer answer = CLIENT.call("GET", "/in/t/bearer", null);

        assertProblem(answer, 405, "GET");
        assertThat(answer.header("Allow")).isEqualTo("POST, PUT");
    }

    @Test
    void answers413ToABodyLongerThanTheInletTakes() {
        assertProblem(bearer("{\"id\":\"" + "x".repeat(1_000) + "\"}"), 413, "1000 bytes");
    }

    @Test
    void answers413ToALongBodyOfUnstatedLength() throws Exception {
        try (Socket socket =
                new Socket("127.0.0.1", Integer.parseInt(SERVICE.address().split(":")[2]))) {
            String chunk = "x".repeat(600);
            String request = "POST /in/t/bearer HTTP/1.1\r\nHost: localhost\r\nAuthorization: Bearer open-sesame-1\r\n"
                    + "Content-Type: application/json\r\nTransfer-Encoding: chunked\r\n\r\n"
                    + ("258\r\n" + chunk + "\r\n").repeat(2) + "0\r\n\r\n";
            socket.getOutputStream().write(request.getBytes(StandardCharsets.US_ASCII));
            InputStream answer = socket.getInputStream();
            assertThat(new String(answer.readNBytes(12), StandardCharsets.US_ASCII))
                    .isEqualTo("HTTP/1.1 413");
        }
    }

    @Test
    void answers415WhereTheInletRestrictsContentTypes() {
        Answer answer = CLIENT.call(
                "POST",
                "/in/t/bearer",
                "a=1".getBytes(),
                "Authorization",
                "Bearer open-sesame-1",
                "Content-Type",
                "text/plain");

        assertProblem(answer, 415, "application/json");
        String basic = "Basic " + Base64.getEncoder().encodeToString("mast:p:ss".getBytes());
        assertThat(CLIENT.call(
                                "POST",
                                "/in/t/basic",
                                "{}".getBytes(),
                                "Authorization",
                                basic,
                                "Content-Type",
                                "text/plain")
                        .status())
                .isEqualTo(202);
    }
}
