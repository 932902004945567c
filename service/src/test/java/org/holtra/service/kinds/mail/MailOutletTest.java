package org.holtra.service.kinds.mail;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.SharedServiceTest;
import org.holtra.service.support.TestCertificates;
import org.holtra.service.support.TestCertificates.Pair;
import org.holtra.standins.mailbox.Mailbox;
import org.holtra.standins.mailbox.Mailbox.Mail;
import org.holtra.standins.mailbox.SmtpServer;
import org.holtra.standins.mailbox.SmtpServer.Manner;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

/** Deliveries that become mail, sent to a server that speaks SMTP. */
class MailOutletTest extends SharedServiceTest {

    @TempDir
    private Path folder;

    private final Mailbox mailbox = new Mailbox();
    private SmtpServer server;

    @AfterEach
    void endServer() throws IOException {
        server.close();
    }

    private void serve(Manner manner) throws IOException {
        server = new SmtpServer(mailbox, 0, manner);
    }

    private void adopt(String to, String more, String shape) {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id}
                outlets:
                  o: {kind: mail, to: {host: 127.0.0.1, port: %d, from: holtra@larkmoor.example%s}%s}
                lanes:
                  l: {inlets: [i], outlet: o, shape: %s, retry: {first: 200ms}}
                """.formatted(server.port(), to, more, shape)));
    }

    private static final String TO_DUTY = ", security: none, to: [duty@larkmoor.example]";
    private static final String SHAPE = "{subject: \"Frost at ${data.id}\", format: text, body: \"${data.n} degrees\"}";

    private String send(String n) {
        return client.send("i", "{\"id\":\"row-4\",\"n\":" + n + "}");
    }

    private Mail first() {
        return Client.await(mailbox::mails, mails -> !mails.isEmpty()).getFirst();
    }

    private JsonNode outlet() {
        return client.get("/api/v1/outlets").get(0);
    }

    private JsonNode lastStep() {
        JsonNode steps =
                Client.good(client.post("/api/v1/outlets/o/check", Map.of())).json();
        return steps.get(steps.size() - 1);
    }

    @Test
    void aMessageBecomesAMailWithItsSubjectAndText() throws IOException {
        serve(Manner.OPEN);
        adopt(TO_DUTY, "", SHAPE);

        String id = send("-1");

        JsonNode trace = becomes(id, "delivered");
        Mail mail = first();
        assertThat(mail.from()).isEqualTo("holtra@larkmoor.example");
        assertThat(mail.to()).containsExactly("duty@larkmoor.example");
        assertThat(mail.header("Subject")).isEqualTo("Frost at row-4");
        assertThat(mail.header("Message-ID")).isEqualTo("<" + id + ".l@larkmoor.example>");
        assertThat(mail.header("Content-Type")).startsWith("text/plain");
        assertThat(mail.body()).contains("-1 degrees");
        assertThat(trace.toString()).contains("mail to duty@larkmoor.example by 127.0.0.1");
    }

    @Test
    void aTextOfHtmlIsSentAsSuchAndTheShapeMaySayWhoGetsIt() throws IOException {
        serve(Manner.OPEN);
        adopt(
                ", security: none",
                "",
                "{to: \"a@larkmoor.example, b@larkmoor.example\", format: text, contentType: text/html, body: \"<b>${data.n}</b>\"}");

        becomes(send("1"), "delivered");

        assertThat(first().to()).containsExactly("a@larkmoor.example", "b@larkmoor.example");
        assertThat(first().header("Content-Type")).startsWith("text/html");
        assertThat(first().header("Subject")).isEqualTo("Message of Holtra");
    }

    @Test
    void severalWithinAWhileBecomeOneMail() throws IOException {
        serve(Manner.OPEN);
        adopt(TO_DUTY, ", batch: {messages: 10, wait: 700ms}", SHAPE);

        List<String> ids = List.of(send("1"), send("2"), send("3"));

        ids.forEach(id -> becomes(id, "delivered"));
        assertThat(mailbox.mails()).hasSize(1);
        assertThat(first().header("Subject")).isEqualTo("Frost at row-4 (and 2 more)");
        assertThat(first().body()).contains("1 degrees", "2 degrees", "3 degrees");
    }

    @Test
    void aLineBreakInAValueBeginsNoHeader() throws IOException {
        serve(Manner.OPEN);
        adopt(TO_DUTY, "", "{subject: \"${data.n}\", format: text, body: x}");

        becomes(client.send("i", "{\"id\":\"a\",\"n\":\"x\\r\\nBcc: b@larkmoor.example\"}"), "delivered");

        assertThat(first().header("Bcc")).isEmpty();
        assertThat(first().to()).containsExactly("duty@larkmoor.example");
    }

    @Test
    void anAddressThatTheServerRefusesIsDeadAndAPassingTroubleIsNot() throws IOException {
        serve(Manner.OPEN);
        adopt(TO_DUTY, "", SHAPE);
        server.mood("550 no such mailbox");
        assertThat(becomes(send("1"), "dead").toString()).contains("550 no such mailbox");

        server.mood("451 come again");
        String id = send("2");
        Client.await(() -> client.trace(id).toString(), trace -> trace.contains("451 come again"));
        server.mood("");
        becomes(id, "delivered");
    }

    @Test
    void nobodyToSendToIsSaid() throws IOException {
        serve(Manner.OPEN);
        adopt(", security: none", "", SHAPE);

        assertThat(becomes(send("1"), "dead").toString()).contains("set `to` in one of them");
    }

    @Test
    void aWrongPasswordBlocksTheOutletUntilItIsMended() throws IOException {
        serve(new Manner("holtra", "right-password", null, false));
        client.save("mail", Map.of("form", "login", "user", "holtra", "password", "wrong-password"));
        adopt(TO_DUTY + ", credential: mail", "", SHAPE);
        String id = send("1");
        Client.await(() -> outlet().path("state").asString(), "blocked"::equals);
        assertThat(outlet().path("reason").asString()).contains("refuses the user or the password");
        assertThat(lastStep().path("step").asString()).isEqualTo("signed in");

        client.save("mail", Map.of("form", "login", "user", "holtra", "password", "right-password"));

        becomes(id, "delivered");
    }

    @Test
    void withStarttlsNothingIsSentToAServerWithoutIt() throws IOException {
        serve(Manner.OPEN);
        adopt(", to: [duty@larkmoor.example]", "", SHAPE);
        send("1");

        Client.await(() -> outlet().path("reason").asString(""), reason -> reason.contains("does not offer STARTTLS"));
        assertThat(mailbox.mails()).isEmpty();
    }

    @Test
    void starttlsAndTlsTrustTheAuthorityOfTheOutlet() throws IOException {
        TestCertificates made = new TestCertificates(folder);
        Pair authority = made.authority("larkmoor-authority");
        Pair certificate = made.signed("mail", authority, "-ext", "san=ip:127.0.0.1");
        serve(new Manner(null, null, certificate.context(), false));
        adopt(", to: [duty@larkmoor.example]", "", SHAPE);
        assertThat(lastStep().at("/offer/act").asString()).isEqualTo("Trust this authority for this outlet");
        String trusted = ", to: [duty@larkmoor.example], authority: " + Client.JSON.writeValueAsString(authority.pem());
        adopt(trusted, "", SHAPE);
        becomes(send("1"), "delivered");

        server.close();
        serve(new Manner(null, null, certificate.context(), true));
        adopt(trusted + ", security: tls", "", SHAPE);
        becomes(send("2"), "delivered");
        assertThat(mailbox.mails()).hasSize(2);
    }

    @Test
    void aServerThatIsNotThereIsToldAndTheOutletWaits() throws IOException {
        serve(Manner.OPEN);
        adopt(TO_DUTY, "", SHAPE);
        server.close();
        send("1");

        Client.await(() -> outlet().path("state").asString(), "broken"::equals);
        assertThat(outlet().path("reason").asString()).contains("nobody listens at 127.0.0.1");
    }
}
