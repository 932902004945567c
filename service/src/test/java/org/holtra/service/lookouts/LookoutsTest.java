package org.holtra.service.lookouts;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Lookouts raise and clear alarms, whose messages travel lanes like any other. */
class LookoutsTest extends ServiceTest {

    private static final String FROST =
            "frost: {inlets: [i], value: data.wet, below: {on: 0, off: 1.5}, hold: 10m, lateness: 1s}";

    private void adopt(String lookout) {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id, time: data.at}
                outlets:
                  desk: {kind: http, to: {url: "%s/"}}
                lanes:
                  alarms: {inlets: [holtra], pick: 'has(data.device)', outlet: desk}
                lookouts:
                  %s
                """.formatted(receiver.address(), lookout)));
    }

    private String send(String device, String at, double wet) {
        return client.send("i", "{\"id\":\"%s\",\"at\":\"2026-04-12T%s:00Z\",\"wet\":%s}".formatted(device, at, wet));
    }

    private List<JsonNode> told(int count) {
        Client.await(() -> receiver.came().size(), size -> size >= count);
        return receiver.came().stream()
                .map(came -> Client.JSON.readTree(came.body()))
                .toList();
    }

    private JsonNode alarms(String query, int count) {
        return Client.await(() -> client.get("/api/v1/alarms" + query).path("alarms"), list -> list.size() == count);
    }

    private void booksBalance() {
        JsonNode balance = client.get(
                "/api/v1/balance?from=2026-01-01T00:00:00Z&to=" + Instant.now().plusSeconds(3_600));
        assertThat(balance.path("missing").asInt()).as(balance.toString()).isZero();
    }

    @Test
    void aFrostIsOneAlarmFromItsFirstReadingToTheAirThatWarms() {
        adopt(FROST);
        send("a", "03:00", 1);
        String cause = send("a", "03:10", -0.2);
        send("a", "03:20", -0.9);
        send("a", "03:30", 0.8);
        send("b", "03:10", -3);
        send("b", "03:15", 2);
        alarms("?state=open", 1);
        send("a", "03:40", 1.6);

        JsonNode alarm = alarms("?state=cleared", 1).get(0);
        List<JsonNode> told = told(2);

        assertThat(alarm.path("device").asString()).isEqualTo("a");
        assertThat(alarm.path("since").asString()).isEqualTo("2026-04-12T03:10:00Z");
        assertThat(alarm.path("raised").asString()).isEqualTo("2026-04-12T03:20:00Z");
        assertThat(alarm.path("cleared").asString()).isEqualTo("2026-04-12T03:40:00Z");
        assertThat(alarm.path("extreme").asDouble()).isEqualTo(-0.9);
        assertThat(alarm.path("cause").asString()).isEqualTo(cause);
        assertThat(told).extracting(one -> one.path("state").asString()).containsExactly("raised", "cleared");
        assertThat(told)
                .extracting(one -> one.path("id").asString())
                .containsOnly(alarm.path("id").asString());
        assertThat(told.getFirst().path("text").asString()).isEqualTo("frost: a: -0.9 is at or below 0");
        assertThat(told.getLast().path("text").asString()).isEqualTo("frost: a: 1.6 is at or above 1.5");
        JsonNode trace = client.trace(cause);
        assertThat(trace.at("/alarms/0/number").asLong())
                .isEqualTo(alarm.path("number").asLong());
        JsonNode its = client.trace(alarm.path("id").asString());
        assertThat(its.at("/message/type").asString()).isEqualTo("alarm");
        assertThat(its.at("/madeOf/0").asString()).isEqualTo(cause);
        assertThat(its.at("/lanes/0/state").asString()).isEqualTo("delivered");
        assertThat(trace.at("/lanes")).isEmpty();
        booksBalance();
    }

    @Test
    void anAlarmIsAcknowledgedAndCommentedAndItsHistoryIsKept() {
        adopt(FROST);
        send("a", "03:10", -0.2);
        send("a", "03:20", -0.9);
        long number = alarms("?state=open", 1).get(0).path("number").asLong();

        Client.good(client.post("/api/v1/alarms/" + number + "/acknowledge", Map.of("text", "fans are on")));
        JsonNode whole = Client.good(client.post("/api/v1/alarms/" + number + "/comment", Map.of("text", "row 7 too")))
                .json();

        assertThat(whole.at("/alarm/state").asString()).isEqualTo("acknowledged");
        assertThat(whole.at("/alarm/acknowledgedBy").asString()).isEqualTo("key first-start");
        assertThat(whole.path("acts"))
                .extracting(act ->
                        act.path("act").asString() + " " + act.path("text").asString())
                .containsExactly("acknowledged fans are on", "commented row 7 too");
        assertThat(client.post("/api/v1/alarms/999/acknowledge", Map.of()).status())
                .isEqualTo(404);
        assertThat(client.post("/api/v1/alarms/" + number + "/shelve", Map.of("span", "soon"))
                        .status())
                .isEqualTo(400);
    }

    @Test
    void whatIsShelvedIsRaisedButNotToldUntilNobodyShelvesIt() {
        adopt(FROST);
        send("a", "03:10", -0.2);
        send("a", "03:20", -0.9);
        long number = alarms("?state=open", 1).get(0).path("number").asLong();
        told(1);
        Client.good(client.post("/api/v1/alarms/" + number + "/shelve", Map.of("span", "1h")));
        send("a", "03:30", 2);
        told(2);
        send("a", "04:10", -1);
        send("a", "04:20", -1);

        JsonNode shelved = alarms("?state=shelved", 1).get(0);
        assertThat(shelved.path("told").asBoolean()).isFalse();
        Client.good(client.post("/api/v1/alarms/" + shelved.path("number").asLong() + "/unshelve", Map.of()));

        List<JsonNode> told = told(3);
        assertThat(told).hasSize(3);
        assertThat(told.getLast().path("state").asString()).isEqualTo("raised");
        assertThat(told.getLast().path("id").asString())
                .isEqualTo(shelved.path("id").asString());
        booksBalance();
    }

    @Test
    void aChangedLookoutClearsTheAlarmThatIsRaised() {
        adopt(FROST);
        send("a", "03:10", -0.2);
        send("a", "03:20", -0.9);
        alarms("?state=open", 1);

        adopt(FROST.replace("off: 1.5", "off: 0.5").replace("hold: 10m", "hold: 20m"));
        send("a", "03:30", 0.6);

        alarms("?state=cleared", 1);
        assertThat(told(2)).extracting(one -> one.path("state").asString()).containsExactly("raised", "cleared");
    }

    @Test
    void aRemovedLookoutLeavesNoAlarmOpen() {
        adopt(FROST);
        send("a", "03:10", -0.2);
        send("a", "03:20", -0.9);
        alarms("?state=open", 1);

        adopt(FROST.replace("frost:", "cold:"));

        assertThat(alarms("?state=cleared", 1).get(0).path("text").asString()).endsWith("its lookout was removed");
    }

    @Test
    void aDeviceThatFallsSilentAlarmsButNotWhileNobodyListens() {
        adopt("gone: {inlets: [i], silent: 20s}");
        send("a", "03:10", 1);
        restart();
        Client.await(() -> service.database().texts("select inlet from listening"), inlets -> !inlets.isEmpty());
        // Nobody listened for longer than that, as far as is known.
        service.database()
                .texts(
                        "with gap as (update listening set at = at - interval '1 minute' returning inlet) insert into deaf"
                                + " select inlet, now() - interval '1 hour', now() from gap returning inlet");
        Instant deafUntil = Instant.now();

        JsonNode alarm = alarms("?state=open", 1).get(0);

        assertThat(Instant.parse(alarm.path("raised").asString())).isAfter(deafUntil.plusSeconds(18));
        assertThat(alarm.path("text").asString()).isEqualTo("nothing has come for 20 s");
        send("a", "03:20", 1);
        alarms("?state=cleared", 1);
        assertThat(told(2)).extracting(one -> one.path("state").asString()).containsExactly("raised", "cleared");
        booksBalance();
    }

    private JsonNode rehearse(Map<String, Object> fields) {
        return Client.good(client.post("/api/v1/lookouts/warmer/rehearse", Map.of("fields", fields)))
                .json();
    }

    @Test
    void aRehearsalTellsHowOftenALookoutWouldHaveRaised() {
        adopt(FROST);
        for (String device : List.of("a", "b")) {
            for (int i = 0; i < 12; i++) {
                send(device, "%02d:%02d".formatted(3 + i / 6, i % 6 * 10), device.equals("a") ? 3 - i / 2.0 : 3);
            }
        }
        alarms("?state=open", 1);

        JsonNode answer =
                rehearse(Map.of("inlets", List.of("i"), "value", "data.wet", "below", Map.of("on", 2, "off", 2.5)));
        JsonNode wrong = rehearse(Map.of("inlets", List.of("i"), "silent", "2 hours"));

        JsonNode rehearsed = answer.path("rehearsed");
        assertThat(rehearsed.path("messages").asInt()).isEqualTo(24);
        assertThat(rehearsed.path("alarms")).hasSize(1);
        assertThat(rehearsed.at("/alarms/0/key").asString()).isEqualTo("a");
        assertThat(rehearsed.at("/alarms/0/raised").asString()).isEqualTo("2026-04-12T03:20:00Z");
        assertThat(rehearsed.at("/shown").asString()).isEqualTo("a");
        assertThat(rehearsed.path("values")).hasSize(12);
        assertThat(rehearsed.at("/keys/1/raised").asInt()).isZero();
        assertThat(wrong.path("problems")).isNotEmpty();
    }

    @Test
    void lookoutsAreListedWithWhatTheyGoByAndHowTheyDid() {
        adopt(FROST);
        send("a", "03:10", -0.2);
        send("a", "03:20", -0.9);
        alarms("?state=open", 1);

        JsonNode frost = client.get("/api/v1/lookouts").get(0);

        assertThat(frost.path("goesBy").asString())
                .isEqualTo("data.wet at or below 0, until it is back at 1.5; for 10 min");
        assertThat(frost.path("watched").asInt()).isEqualTo(1);
        assertThat(frost.path("open").asInt()).isEqualTo(1);
    }

    @Test
    void anAlarmIsForgottenOnceMessagesOfItsTimeAre() {
        adopt(FROST);
        send("a", "03:10", -0.2);
        send("a", "03:20", -0.9);
        send("a", "03:30", 2);
        alarms("?state=cleared", 1);
        service.database().texts("update alarm set cleared = now() - interval '91 days' returning lookout");

        service.bean(Alarms.class).forget();

        assertThat(client.get("/api/v1/alarms").path("alarms")).isEmpty();
    }
}
