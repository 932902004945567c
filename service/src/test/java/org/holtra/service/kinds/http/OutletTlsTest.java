package org.holtra.service.kinds.http;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.util.HashMap;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.SharedServiceTest;
import org.holtra.service.support.TestCertificates;
import org.holtra.service.support.TestCertificates.Pair;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

/** Outlets to destinations with certificates of their own authorities, and those that want one of the outlet. */
class OutletTlsTest extends SharedServiceTest {

    private static final String[] AT_LOOPBACK = {"-ext", "san=ip:127.0.0.1"};

    @TempDir
    private Path folder;

    private TestCertificates made;
    private Pair authority;

    @BeforeEach
    void makeAuthority() {
        made = new TestCertificates(folder);
        authority = made.authority("larkmoor-authority");
    }

    private static Map<String, Object> to(Receiver destination, Object... more) {
        Map<String, Object> to = new HashMap<>(Map.of("url", destination.address()));
        for (int i = 0; i < more.length; i += 2) {
            to.put((String) more[i], more[i + 1]);
        }
        return to;
    }

    private JsonNode lastStep(Map<String, Object> to) {
        JsonNode steps = Client.good(
                        client.post("/api/v1/outlets/o/check", Map.of("fields", Map.of("kind", "http", "to", to))))
                .json();
        return steps.get(steps.size() - 1);
    }

    private static String told(JsonNode step) {
        return step.path("told").asString();
    }

    private void adopt(Map<String, Object> to) {
        Client.good(client.adopt(Client.JSON.writeValueAsString(Map.of(
                "inlets", Map.of("i", Map.of("kind", "http", "at", Map.of("path", "i", "credential", "sender"))),
                "outlets", Map.of("o", Map.of("kind", "http", "to", to)),
                "lanes", Map.of("l", Map.of("inlets", new String[] {"i"}, "outlet", "o"))))));
    }

    private String outletSays(String wanted) {
        return Client.await(
                () -> client.get("/api/v1/outlets").path(0).path("reason").asString(""),
                reason -> reason.contains(wanted));
    }

    @Test
    void anUnknownAuthorityIsShownAndTrustedForThisOutletByAgreement() {
        Pair server = made.signed("historian", authority, AT_LOOPBACK);
        try (Receiver destination = Receiver.secure(server.context(), false)) {
            JsonNode step = lastStep(to(destination));
            assertThat(told(step))
                    .isEqualTo("its certificate is signed by an authority this machine does not trust:"
                            + " CN=larkmoor-authority");
            JsonNode offer = step.path("offer");
            assertThat(offer.path("act").asString()).isEqualTo("Trust this authority for this outlet");
            assertThat(offer.path("shows").toString()).contains("CN=larkmoor-authority", "SHA-256 fingerprint");

            adopt(to(destination));
            String id = client.send("i", "{\"v\":1}");
            Client.await(
                    () -> client.trace(id).toString(),
                    trace -> trace.contains("does not trust: CN=larkmoor-authority"));

            String pem = offer.at("/settings/authority").asString();
            assertThat(told(lastStep(to(destination, "authority", pem)))).isEqualTo("answered 200");
            adopt(to(destination, "authority", pem));
            becomes(id, "delivered");
        }
    }

    @Test
    void saysOfACertificateThatItHasExpiredOrIsOfAnotherName() {
        Pair expired =
                made.signed("old", authority, "-ext", "san=ip:127.0.0.1", "-startdate", "-10d", "-validity", "2");
        Pair other = made.signed("other", authority, "-ext", "san=dns:desk.example");
        String pem = authority.pem();
        try (Receiver one = Receiver.secure(expired.context(), false);
                Receiver two = Receiver.secure(other.context(), false)) {
            JsonNode step = lastStep(to(one, "authority", pem));
            assertThat(told(step)).startsWith("its certificate has expired: it was valid until 20");
            assertThat(step.path("offer").isNull()).isTrue();
            assertThat(told(lastStep(to(two, "authority", pem))))
                    .isEqualTo("its certificate is for desk.example, not for 127.0.0.1");
        }
    }

    @Test
    void aSelfSignedCertificateCanBeTrustedItself() {
        Pair server = made.selfSigned("desk");
        try (Receiver destination = Receiver.secure(server.context(), false)) {
            JsonNode step = lastStep(to(destination));
            assertThat(told(step)).contains("does not trust: itself, CN=desk");
            String pem = step.at("/offer/settings/authority").asString();
            assertThat(told(lastStep(to(destination, "authority", pem)))).isEqualTo("answered 200");
        }
    }

    @Test
    void aDestinationThatWantsACertificateBlocksTheOutletUntilItHasTheRightOne() {
        Pair server = made.signed("cloud", authority, AT_LOOPBACK);
        Pair foreign = made.selfSigned("foreign");
        Pair own = made.signed("holtra-at-larkmoor", authority);
        try (Receiver destination = Receiver.secure(server.context(authority.certificate()), true)) {
            String pem = authority.pem();
            assertThat(told(lastStep(to(destination, "authority", pem))))
                    .startsWith("the server wants a client certificate, and none is set");
            adopt(to(destination, "authority", pem));
            String id = client.send("i", "{\"v\":1}");
            assertThat(outletSays("wants a client certificate")).isNotEmpty();

            client.save("own", Map.of("form", "certificate", "certificate", foreign.pem(), "key", foreign.keyPem()));
            assertThat(told(lastStep(to(destination, "authority", pem, "credential", "own"))))
                    .startsWith("the server ");

            client.save("own", Map.of("form", "certificate", "certificate", own.pem(), "key", own.keyPem()));
            adopt(to(destination, "authority", pem, "credential", "own"));
            becomes(id, "delivered");
        }
    }

    @Test
    void aKeyThatIsNotTheCertificatesIsRefusedAndNeverShown() {
        Pair one = made.selfSigned("one");
        Pair two = made.selfSigned("two");
        Client.Answer answer = client.put(
                "/api/v1/credentials/own",
                Map.of("form", "certificate", "certificate", one.pem(), "key", two.keyPem()));
        assertThat(answer.status()).isEqualTo(422);
        assertThat(answer.body()).contains("not the key of the certificate").doesNotContain("PRIVATE KEY");
        Client.Answer swapped = client.put(
                "/api/v1/credentials/own",
                Map.of("form", "certificate", "certificate", one.keyPem(), "key", one.keyPem()));
        assertThat(swapped.body()).containsIgnoringCase("this is a private key, not a certificate");
    }

    @Test
    void aPortThatSpeaksTlsIsToldFromOneThatDoesNot() {
        Pair server = made.selfSigned("desk");
        try (Receiver destination = Receiver.secure(server.context(), false)) {
            JsonNode step = lastStep(Map.of("url", destination.address().replace("https:", "http:")));
            assertThat(told(step)).isEqualTo("this port speaks TLS");
            assertThat(step.path("mend").asString()).contains("https");
        }
    }
}
