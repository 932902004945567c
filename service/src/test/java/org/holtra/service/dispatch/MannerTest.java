package org.holtra.service.dispatch;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.stream.IntStream;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** How an outlet sends, and what it takes answers for. */
class MannerTest extends ServiceTest {

    private void adopt(String manner) {
        Client.good(client.adopt("""
                inlets:
                  m: {kind: http, at: {path: m, credential: sender}, device: data.id}
                outlets:
                  m:
                    kind: http
                    to: {url: "%s/"}
                %s
                lanes:
                  m: {inlets: [m], outlet: m, retry: {first: 50ms, longest: 100ms}}
                """.formatted(receiver.address(), manner.indent(4))));
    }

    private String send(String device) {
        return client.send("m", "{\"id\":\"" + device + "\"}");
    }

    private JsonNode outlet() {
        return client.get("/api/v1/outlets").get(0);
    }

    @Test
    void aRuleReadsAnErrorInsideA200() {
        adopt("""
                verdicts:
                  - {when: "answer.body.error == 'unknown device'", is: refused, because: the cloud does not know it}
                  - {when: "answer.headers['x-busy'] == 'yes'", is: try-later}
                """);
        receiver.answer(number -> number == 1
                ? new Receiver.Reply(200, "{\"error\":\"unknown device\"}")
                : number == 2 ? new Receiver.Reply(200, "ok", "X-Busy", "yes") : new Receiver.Reply(200, "ok"));

        JsonNode refused =
                client.traceWhen(send("a"), trace -> Client.state(trace).equals("dead"));
        JsonNode second =
                client.traceWhen(send("b"), trace -> Client.state(trace).equals("delivered"));

        assertThat(refused.at("/lanes/0/reason").asString())
                .isEqualTo("the destination answered 200: the cloud does not know it");
        assertThat(second.at("/lanes/0/attempts")).hasSize(2);
        assertThat(second.at("/lanes/0/attempts/0/reason").asString())
                .isEqualTo("the destination answered 200: `answer.headers['x-busy'] == 'yes'` holds");
    }

    @Test
    void aDeviceThatIsHeldIsShownWithItsReasonAndOthersGoOn() {
        adopt("verdicts: [{when: \"answer.status == 404\", is: device-held, because: not registered there}]");
        receiver.answer(number ->
                new Receiver.Reply(receiver.came().get(number - 1).body().contains("\"a\"") ? 404 : 200, ""));

        String held = send("a");
        Client.await(this::outlet, outlet -> outlet.path("heldDevices").asInt() == 1);
        String other = send("b");

        client.traceWhen(other, trace -> Client.state(trace).equals("delivered"));
        JsonNode one = outlet().path("held").get(0);
        assertThat(one.path("device").asString()).isEqualTo("a");
        assertThat(one.path("reason").asString()).isEqualTo("the destination answered 404: not registered there");
        assertThat(Client.state(client.trace(held))).isEqualTo("waiting");

        Client.await(
                () -> service.database().texts("select device from held_device"), devices -> devices.contains("a"));
        restart();
        assertThat(outlet().path("held").get(0).path("device").asString()).isEqualTo("a");
    }

    @Test
    void aBlockedOutletIsRememberedAcrossARestart() {
        adopt("verdicts: [{when: \"answer.status == 402\", is: outlet-blocked, because: the account is unpaid}]");
        receiver.answer(number -> new Receiver.Reply(402, ""));
        send("a");
        Client.await(this::outlet, outlet -> outlet.path("state").asString().equals("blocked"));
        Client.await(
                () -> service.database().texts("select state from outlet_health"),
                states -> states.contains("BLOCKED"));
    }

    @Test
    void nothingGoesFasterThanThePaceAlsoAcrossARestart() {
        adopt("pace: {perSecond: 4}");
        Instant begun = Instant.now();
        for (int i = 0; i < 24; i++) {
            send("d" + i);
        }
        Client.await(() -> receiver.came().size(), size -> size >= 8);
        restart();
        List<Instant> times = Client.await(
                () -> receiver.came().stream().map(Receiver.Came::at).toList(), came -> came.size() == 24);

        assertThat(times.get(7)).isAfterOrEqualTo(begun.plusMillis(7 * 250));
        // Twelve take 2.75 s; the rest of it is left to a machine that holds some of them up.
        assertThat(IntStream.range(11, 24).mapToObj(last -> Duration.between(times.get(last - 11), times.get(last))))
                .allMatch(twelve -> twelve.toMillis() > 500);
    }

    @Test
    void aQuotaThatIsUsedUpPausesTheOutletUntilItsDayEnds() {
        adopt("pace: {perDay: 5}");
        for (int i = 0; i < 8; i++) {
            send("d" + i);
        }

        JsonNode paused = Client.await(
                this::outlet, outlet -> outlet.path("state").asString().equals("paused"));

        Client.await(() -> receiver.came().size(), size -> size == 5);
        assertThat(paused.path("reason").asString()).isEqualTo("the day's quota of 5 messages is used up");
        assertThat(paused.path("nextProbe").asString()).endsWith("T00:00:00Z");
        assertThat(paused.at("/used/ofDay").asInt()).isEqualTo(5);
        Client.await(() -> outlet().path("waiting").asInt(), waiting -> waiting == 3);

        restart();
        Client.await(this::outlet, outlet -> outlet.path("state").asString().equals("paused"));
        assertThat(receiver.came()).hasSize(5);
    }
}
