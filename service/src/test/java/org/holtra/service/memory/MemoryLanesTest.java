package org.holtra.service.memory;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.holtra.service.journal.Days;
import org.holtra.service.retention.Retention;
import org.holtra.service.support.Client;
import org.holtra.service.support.ServiceTest;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import tools.jackson.databind.JsonNode;

/** Lanes that make something of several messages. */
class MemoryLanesTest extends ServiceTest {

    private void adopt(String memory) {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id, time: data.at}
                outlets:
                  o: {kind: http, to: {url: "%s/"}}
                lanes:
                  l:
                    inlets: [i]
                    outlet: o
                %s
                """.formatted(receiver.address(), memory.indent(4))));
    }

    private String send(String device, String at, String fields) {
        return client.send("i", "{\"id\":\"%s\",\"at\":\"2026-04-12T%sZ\",%s}".formatted(device, at, fields));
    }

    private List<JsonNode> came(int count) {
        Client.await(() -> receiver.came().size(), size -> size >= count);
        return receiver.came().stream()
                .map(came -> Client.JSON.readTree(came.body()))
                .toList();
    }

    private void booksBalance() {
        JsonNode balance = client.get(
                "/api/v1/balance?from=2026-01-01T00:00:00Z&to=" + Instant.now().plusSeconds(3_600));
        assertThat(balance.path("missing").asInt()).as(balance.toString()).isZero();
        assertThat(client.get("/api/v1/balance/differences?from=2026-01-01T00:00:00Z"))
                .isEmpty();
    }

    @Test
    void aThinLaneSendsOneMessageAnIntervalAndDevice() {
        adopt("""
                memory: {lateness: 3s, downsample: {every: 15m, fields: {t: mean}, others: last}}
                shape: {body: {id: "${data.id}", t: "${data.t}", at: "${meta.eventTime}"}}
                """);
        String one = send("a", "03:00:00", "\"t\":1");
        send("a", "03:20:00", "\"t\":7");
        send("a", "03:10:00", "\"t\":2");
        send("b", "03:10:00", "\"t\":9");

        List<JsonNode> came = came(3);

        assertThat(came).hasSize(3);
        assertThat(came.stream()
                        .map(body -> body.path("id").asString() + body.path("t").asDouble()))
                .containsExactlyInAnyOrder("a1.5", "a7.0", "b9.0");
        JsonNode source = becomes(one, "merged");
        String made = source.at("/lanes/0/reason").asString().replace("part of ", "");
        JsonNode trace = client.trace(made);
        assertThat(trace.at("/message/state").asString()).isEqualTo("made");
        assertThat(trace.at("/message/reason").asString()).startsWith("made of 2 messages, from 2026-04-12T03:00:00Z");
        assertThat(trace.at("/madeOf")).hasSize(2);
        assertThat(source.at("/lanes/0/into").asString()).isEqualTo(made);
        assertThat(receiver.came())
                .extracting(came1 -> came1.header("Idempotency-Key"))
                .contains(made + ".l");
        booksBalance();
    }

    @Test
    void aShorterAllowedLatenessCountsForWhatWaitsAlready() {
        String memory = "memory: {lateness: %s, downsample: {every: 15m, fields: {t: mean}}}";
        adopt(memory.formatted("12h"));
        send("a", "03:00:00", "\"t\":1");
        String last = send("a", "03:10:00", "\"t\":2");
        becomes(last, "remembered");

        adopt(memory.formatted("1s"));

        assertThat(came(1).getFirst().path("t").asDouble()).isEqualTo(1.5);
        booksBalance();
    }

    @Test
    void aLaneOfChangesHoldsBackWhatTellsNothingNew() {
        adopt("memory: {changed: {by: {t: 0.5}}}");
        String one = send("a", "03:00:00", "\"t\":1");
        becomes(one, "delivered");
        String same = send("a", "03:05:00", "\"t\":1.2");
        String other = send("a", "03:10:00", "\"t\":2");

        becomes(other, "delivered");

        assertThat(becomes(same, "held back").at("/lanes/0/reason").asString())
                .contains("t moved by 0.2, not by more than 0.5");
        assertThat(receiver.came()).hasSize(2);
        booksBalance();
    }

    @Test
    void partsAreJoinedAndWhatIsNotWholeMayBecomeADeadLetter() {
        adopt("memory: {lateness: 1s, join: {fields: [air, wind.speed], within: 2s, incomplete: die}}");
        send("a", "03:00:00", "\"air\":4");
        send("a", "03:00:01", "\"wind\":{\"speed\":3}");
        send("b", "03:00:00", "\"air\":5");

        JsonNode whole = came(1).getFirst();
        JsonNode dead = Client.await(
                () -> client.get("/api/v1/dead"),
                letters -> letters.path("letters").size() == 1);

        assertThat(whole.at("/wind/speed").asInt()).isEqualTo(3);
        assertThat(whole.path("air").asInt()).isEqualTo(4);
        assertThat(dead.at("/letters/0/cause").asString()).isEqualTo("incomplete");
        assertThat(dead.at("/letters/0/reason").asString()).endsWith("missing: wind.speed");
        booksBalance();
    }

    @Test
    void aPartOfWhatIsNotMadeYetSaysSoAndLinksToNothing() {
        adopt("memory: {join: {fields: [air, humidity], within: 10m, incomplete: wait}}");
        String part = send("a", "03:00:00", "\"air\":4");

        JsonNode waits = becomes(part, "merged");
        send("a", "03:01:00", "\"humidity\":80");
        JsonNode made = Client.await(
                () -> client.trace(part), trace -> !trace.at("/lanes/0/into").isNull());

        assertThat(waits.at("/lanes/0/reason").asString()).endsWith(", which is not made yet");
        assertThat(waits.at("/lanes/0/into").isNull()).isTrue();
        assertThat(made.at("/lanes/0/reason").asString())
                .isEqualTo("part of " + made.at("/lanes/0/into").asString());
    }

    @Test
    void theRiseOfACounterIsToldByTheHour() {
        adopt("""
                memory: {lateness: 2s, increase: {of: {rainTotal: rain}, per: hour, gapAfter: 30m}}
                shape: {body: {mm: "${data.rain}"}}
                """);
        String first = send("a", "03:00:00", "\"rainTotal\":10");
        send("a", "03:20:00", "\"rainTotal\":11");
        send("a", "03:40:00", "\"rainTotal\":13");
        send("a", "05:10:00", "\"rainTotal\":14");

        assertThat(came(2)).extracting(body -> body.path("mm").asDouble()).containsExactlyInAnyOrder(3.0, 1.0);
        assertThat(becomes(first, "held back").at("/lanes/0/reason").asString()).startsWith("the first reading");
        booksBalance();
    }

    @Test
    void oneMessageIsSplitIntoManyEachWithItsOwnTrace() {
        adopt("""
                memory: {split: {each: data.readings, time: item.at}}
                shape: {body: {t: "${data.t}", at: "${meta.eventTime}"}}
                """);
        String parent = send(
                "a",
                "04:00:00",
                "\"readings\":[{\"t\":1,\"at\":\"2026-04-12T03:00:00Z\"},{\"t\":2,\"at\":\"2026-04-12T03:10:00Z\"}]");
        String none = send("a", "05:00:00", "\"readings\":[]");

        assertThat(came(2))
                .extracting(
                        body -> body.path("t").asInt() + " " + body.path("at").asString())
                .containsExactlyInAnyOrder("1 2026-04-12T03:00:00Z", "2 2026-04-12T03:10:00Z");
        JsonNode trace = becomes(parent, "split");
        assertThat(trace.path("splitInto")).hasSize(2);
        JsonNode child = client.trace(trace.at("/splitInto/0").asString());
        assertThat(child.at("/madeOf/0").asString()).isEqualTo(parent);
        assertThat(child.at("/message/device").asString()).isEqualTo("a");
        assertThat(becomes(none, "held back").at("/lanes/0/reason").asString())
                .isEqualTo("`data.readings` gives an empty list");
        booksBalance();
    }

    @Test
    void whatComesLateIsPassedOnAndMarked() {
        adopt("""
                memory: {downsample: {every: 15m, fields: {t: mean}}}
                shape: {body: {t: "${data.t}", late?: "${meta.late}"}}
                """);
        send("a", "03:00:00", "\"t\":1");
        JsonNode inTime = came(1).getFirst();

        String late = send("a", "03:05:00", "\"t\":2");

        becomes(late, "delivered");
        assertThat(inTime.has("late")).isFalse();
        assertThat(came(2).getLast().path("late").asBoolean()).isTrue();
        assertThat(receiver.came())
                .extracting(came -> came.header("Holtra-Late"))
                .containsExactly(null, "true");
        assertThat(receiver.came().getLast().header("Idempotency-Key")).isEqualTo(late + ".l");
        booksBalance();
    }

    @Test
    void whatIsReadAgainAndWasNotTakenBeforeComesToTheMemory() {
        adopt("pick: has(data.x)");
        String id = send("a", "03:00:00", "\"t\":1");
        send("a", "03:05:00", "\"t\":3");
        adopt("""
                memory: {lateness: 1s, downsample: {every: 15m, fields: {t: mean}}}
                shape: {body: {t: "${data.t}"}}
                """);

        Client.good(client.post("/api/v1/rereadings", Map.of("from", "2020-01-01T00:00:00Z", "device", "a")));

        assertThat(came(1).getFirst().path("t").asDouble()).isEqualTo(2);
        becomes(id, "merged");
        assertThat(receiver.came()).hasSize(1);
        booksBalance();
    }

    @Test
    void aReplayDeliversAgainWhatWasMadeAndNotWhatItWasMadeOf() {
        adopt("""
                memory: {lateness: 1s, downsample: {every: 15m, fields: {t: mean}}}
                shape: {body: {t: "${data.t}"}}
                """);
        String id = send("a", "03:00:00", "\"t\":1");
        send("a", "03:05:00", "\"t\":3");
        came(1);
        String made = becomes(id, "merged").at("/lanes/0/into").asString();
        Map<String, Object> terms = Map.of("lane", "l", "from", "2020-01-01T00:00:00Z");

        JsonNode preview =
                Client.good(client.post("/api/v1/replays/preview", terms)).json();
        Client.good(client.post("/api/v1/replays", terms));

        assertThat(preview.path("deliveries").asInt()).isEqualTo(1);
        assertThat(preview.path("note").asString()).startsWith("The lane has a memory");
        assertThat(came(2).getLast().path("t").asDouble()).isEqualTo(2);
        assertThat(receiver.came().getLast().header("Holtra-Replays")).isEqualTo(made + ".l");
        assertThat(client.post("/api/v1/replays", Map.of("lane", "l", "from", "2020-01-01T00:00:00Z", "unrouted", true))
                        .body())
                .contains("holtra message reread");
        booksBalance();
    }

    @Test
    void ofMoreKeysThanMayBeRememberedThoseOfWhichNothingCameLongestAreForgotten() {
        try (TestService small = TestService.start(TestDatabase.fresh(), Map.of("holtra.keys-of-a-lane", 3))) {
            Client its = small.client();
            its.save("sender", Map.of("form", "bearer", "token", "in-token-1"));
            Client.good(its.adopt("""
                    inlets:
                      i: {kind: http, at: {path: i, credential: sender}, device: data.id}
                    outlets:
                      o: {kind: http, to: {url: "%s/"}}
                    lanes:
                      l: {inlets: [i], outlet: o, memory: {changed: {by: {t: 1}}}}
                    """.formatted(receiver.address())));
            for (int i = 0; i < 5; i++) {
                its.send("i", "{\"id\":\"k%d\",\"t\":1}".formatted(i));
                int there = i + 1;
                Client.await(
                        () -> small.database().texts("select key from memory where due is null"),
                        keys -> keys.size() == there);
            }

            small.bean(Forgetting.class).run();

            assertThat(small.database().texts("select key from memory order by key"))
                    .containsExactly("k2", "k3", "k4");
        }
    }

    @Test
    void aRestartChangesNothing() {
        adopt("""
                memory: {lateness: 4s, downsample: {every: 1h, fields: {t: sum, n: count}}}
                shape: {body: {t: "${data.t}", n: "${data.n}"}}
                """);
        for (int i = 0; i < 20; i++) {
            send("a", "03:%02d:00".formatted(i), "\"n\":1,\"t\":" + i);
        }
        restart();

        assertThat(came(1).getFirst().path("t").asInt()).isEqualTo(190);
        assertThat(came(1).getFirst().path("n").asInt()).isEqualTo(20);
        client.awaitNothingWaits();
        assertThat(receiver.came()).hasSize(1);
        booksBalance();
    }

    @Test
    void whatALaneRemembersGoesAsItIsWhenItsMemoryIsTakenAway() {
        adopt("memory: {lateness: 1h, downsample: {every: 1h}}");
        String id = send("a", "03:00:00", "\"t\":1");
        Client.await(() -> service.database().texts("select key from memory"), keys -> keys.contains("a"));
        assertThat(Client.state(client.trace(id))).isEqualTo("remembered");

        adopt("state: open");

        becomes(id, "delivered");
        assertThat(service.database().texts("select key from memory")).isEmpty();
        booksBalance();
    }

    private static final String MEANS = "memory: {downsample: {every: 1h, begins: first, fields: {t: mean}}}";

    private String sendNow(int value) {
        return client.send("i", "{\"id\":\"a\",\"at\":\"%s\",\"t\":%d}".formatted(Instant.now(), value));
    }

    @Test
    void whatAnOpenIntervalTookIsMadeWhenTheLaneIsChangedInTheMiddle() {
        adopt(MEANS);
        String first = sendNow(1);
        String second = sendNow(3);
        becomes(first, "merged");
        becomes(second, "merged");
        booksBalance();

        adopt(MEANS.replace("mean", "max").replace("1h", "2s"));
        sendNow(7);

        List<JsonNode> came = came(2);
        assertThat(came.stream().map(body -> body.path("t").asDouble())).containsExactly(2.0, 7.0);
        assertThat(client.trace(becomes(first, "merged").at("/lanes/0/into").asString())
                        .at("/message/reason")
                        .asString())
                .endsWith("; closed early, since the lane was changed");
        booksBalance();
    }

    @Test
    void whatAnOpenIntervalTookIsMadeWhenTheLaneRemembersNothingAnyMore() {
        adopt(MEANS);
        becomes(sendNow(1), "merged");

        adopt("order: device");

        assertThat(came(1).getFirst().path("t").asDouble()).isEqualTo(1.0);
        booksBalance();
    }

    @Test
    void whatAnOpenIntervalTookIsAccountedForWhenItsLaneIsRemoved() {
        adopt(MEANS);
        String part = sendNow(1);
        becomes(part, "merged");

        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id, time: data.at}
                """));

        JsonNode made = Client.await(
                () -> client.trace(part), trace -> !trace.at("/lanes/0/into").isNull());
        assertThat(becomes(made.at("/lanes/0/into").asString(), "dropped")
                        .at("/lanes/0/reason")
                        .asString())
                .isEqualTo("its lane was removed while it was being made");
        booksBalance();
    }

    @Test
    void theBooksNameWhatWasMergedIntoAMessageThatWasNeverMade() {
        adopt(MEANS);
        becomes(sendNow(1), "merged");
        booksBalance();

        service.database().execute("delete from memory");

        assertThat(client.get("/api/v1/balance").path("missing").asInt()).isEqualTo(1);
        assertThat(client.get("/api/v1/balance/differences?from=2026-01-01T00:00:00Z")
                        .toString())
                .contains("taken, and without a fate");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "memory: {downsample: {every: 15m}}",
                "memory: {downsample: {every: 1d, begins: first}}",
                "memory: {join: {count: 2, within: 5m}}",
                "memory: {increase: {of: {t: increase}, per: month}}",
                "memory: {changed: {by: {t: 1}}}",
                "memory: {split: {each: \"[data]\", time: item.at}}"
            })
    void timesFromTheWrongCenturyStopNothingAndLoseNothing(String memory) {
        adopt(memory);
        List<String> times =
                List.of("1970-01-01T00:00:00Z", "1999-12-31T23:59:59Z", "2038-01-19T03:14:08Z", "2100-01-01T00:00:00Z");
        List<String> ids = new ArrayList<>();
        for (String time : times) {
            ids.add(client.send("i", "{\"id\":\"a\",\"at\":\"%s\",\"t\":%d}".formatted(time, ids.size())));
        }
        String ahead = Instant.now().plusSeconds(5 * 86_400).toString();
        ids.add(client.send("i", "{\"id\":\"a\",\"at\":\"%s\",\"t\":9}".formatted(ahead)));
        ids.add(client.send("i", "{\"id\":\"a\",\"at\":\"%s\",\"t\":10}".formatted(Instant.now())));
        Client.await(
                () -> ids.stream()
                        .filter(id ->
                                client.trace(id).at("/lanes/0/state").asString().equals("remembered"))
                        .count(),
                count -> count == 0);
        Instant day = Instant.now().plusSeconds(4 * 86_400);

        service.bean(Days.class).prepare();
        service.bean(Retention.class).drop();

        assertThat(service.database().texts("select id from message where received > '" + day + "'"))
                .as("messages of days that have not come")
                .isEmpty();
        assertThat(service.database().texts("select id from message where state = 'read'"))
                .hasSize(ids.size());
        booksBalance();
        restart();
        assertThat(client.get("/api/v1/devices/one?key=a").path("messages").asInt())
                .isEqualTo(ids.size());
        booksBalance();
    }

    @Test
    void aMemoryThatSaysNothingOrTooMuchIsRefusedWithThePlace() {
        String yaml = """
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}}
                outlets:
                  o: {kind: http, to: {url: "http://127.0.0.1:9/"}}
                lanes:
                  l: {inlets: [i], outlet: o, memory: %s}
                """;

        assertThat(client.adopt(yaml.formatted("{}")).body())
                .contains("a lane with memory does one of downsample, changed, join, increase, split; say which");
        assertThat(client.adopt(yaml.formatted("{downsample: {every: 1h}, increase: {of: {a: b}}}"))
                        .body())
                .contains("not both downsample and increase");
        assertThat(client.adopt(yaml.formatted("{changed: {}}")).body()).contains("say by how much a field must move");
        assertThat(client.adopt(yaml.formatted("{join: {within: 5m}}")).body())
                .contains("say which `fields` make a message whole");
    }

    @Test
    void whatAMemoryWouldMakeIsRehearsedOnWhatCame() {
        adopt("memory: {lateness: 1s, downsample: {every: 15m, fields: {t: mean}, others: last}}");
        send("a", "03:00:00", "\"t\":1,\"total\":10");
        send("a", "03:10:00", "\"t\":2,\"total\":12");
        send("a", "03:20:00", "\"t\":7,\"total\":15");
        send("b", "03:20:00", "\"t\":9,\"total\":1");
        came(3);
        String in = "\"inlets\":[\"i\"],\"outlet\":\"o\"";

        JsonNode downsample = rehearsed("{\"field\":\"t\"}");
        JsonNode increase = rehearsed("{\"field\":\"total\",\"lane\":{" + in
                + ",\"memory\":{\"increase\":{\"of\":{\"total\":\"rain\"},\"per\":\"message\"}}}}");
        JsonNode wrong = Client.good(client.post(
                        "/api/v1/lanes/l/memory",
                        Client.JSON.readTree("{\"lane\":{" + in + ",\"memory\":{\"downsample\":{}}}}")))
                .json();

        assertThat(downsample.path("taken").asInt()).isEqualTo(4);
        assertThat(downsample.path("sent").asInt()).isEqualTo(3);
        assertThat(downsample.path("shown").asString()).isEqualTo("a");
        assertThat(downsample.path("before"))
                .extracting(one -> one.path("value").asDouble())
                .containsExactly(1.0, 2.0, 7.0);
        assertThat(downsample.path("after"))
                .extracting(one -> one.path("value").asDouble())
                .containsExactly(1.5, 7.0);
        assertThat(increase.path("becomes").asString()).isEqualTo("rain");
        assertThat(increase.path("after"))
                .extracting(one -> one.path("value").asDouble())
                .containsExactly(2.0, 3.0);
        assertThat(wrong.path("problems")).isNotEmpty();
        assertThat(receiver.came()).hasSize(3);
    }

    @Test
    void aTryShowsWhatAMessageBecomesPartOf() {
        adopt("""
                memory: {lateness: 30s, downsample: {every: 15m, fields: {t: mean}}}
                shape: {body: {t: "${data.t}", at: "${meta.eventTime}"}}
                """);
        send("a", "03:00:00", "\"t\":1");
        String id = send("a", "03:05:00", "\"t\":3");

        JsonNode tried = Client.good(client.post("/api/v1/lanes/l/try", Map.of("message", id)))
                .json();
        JsonNode changed = Client.good(client.post(
                        "/api/v1/lanes/l/try",
                        Client.JSON.readTree(
                                "{\"message\":\"" + id + "\",\"lane\":{\"inlets\":[\"i\"],\"outlet\":\"o\","
                                        + "\"memory\":{\"changed\":{\"by\":{\"t\":5}}}}}")))
                .json();
        String sent = Client.good(client.post("/api/v1/lanes/l/trial", Map.of("message", id)))
                .json()
                .path("verdict")
                .asString();

        assertThat(tried.path("becomes").asString()).startsWith("it becomes part of a message made of 2 messages");
        JsonNode request = tried.at("/requests/0");
        assertThat(request.path("text").asString()).isEqualTo("{\"t\":2,\"at\":\"2026-04-12T03:00:00Z\"}");
        assertThat(changed.path("becomes").asString()).startsWith("it is held back: nothing new since");
        assertThat(changed.at("/requests/0/text").asString()).contains("\"t\":3");
        assertThat(sent).isEqualTo("delivered");
        assertThat(came(1).getFirst().path("t").asDouble()).isEqualTo(2);
        assertThat(receiver.came().getFirst().header("Holtra-Trial")).isEqualTo("true");
    }

    @Test
    void aRehearsalRunsTheMemoryAndShapesWhatItMakes() {
        adopt("""
                memory: {lateness: 1s, downsample: {every: 15m, fields: {t: mean}}}
                shape: {body: {t: "${data.t}"}}
                """);
        for (int minute = 0; minute < 60; minute += 5) {
            send("a", "03:%02d:00".formatted(minute), "\"t\":" + minute);
        }
        came(4);
        String same =
                "{\"inlets\":[\"i\"],\"outlet\":\"o\",\"memory\":{\"lateness\":\"1s\",\"downsample\":{\"every\":\"%s\","
                        + "\"fields\":{\"t\":\"mean\"}}},\"shape\":{\"body\":{\"t\":\"${%s}\"}}}";

        JsonNode alike = rehearsal(same.formatted("15m", "data.t"));
        JsonNode otherShape = rehearsal(same.formatted("15m", "data.t + 1.0"));
        JsonNode otherMemory = rehearsal(same.formatted("1h", "data.none"));

        assertThat(alike.at("/memory/made").asInt()).isEqualTo(4);
        assertThat(alike.at("/memory/madeThen").asInt()).isEqualTo(4);
        assertThat(alike.at("/memory/merged").asInt()).isEqualTo(12);
        assertThat(alike.at("/memory/open").asInt()).isZero();
        assertThat(alike.at("/counts/same").asInt()).isEqualTo(4);
        assertThat(otherShape.at("/counts/changed").asInt()).isEqualTo(4);
        assertThat(otherShape.at("/examples/0/differences/0/now").asString()).startsWith("6");
        assertThat(otherMemory.at("/memory/same").asBoolean()).isFalse();
        assertThat(otherMemory.at("/memory/made").asInt()).isEqualTo(1);
        assertThat(otherMemory.at("/counts/failing").asInt()).isEqualTo(1);
    }

    private JsonNode rehearsal(String lane) {
        String id = Client.good(
                        client.post("/api/v1/lanes/l/rehearsals", Client.JSON.readTree("{\"lane\":" + lane + "}")))
                .json()
                .path("id")
                .asString();
        return Client.await(
                () -> client.get("/api/v1/rehearsals/" + id),
                rehearsal -> !rehearsal.path("ended").isNull());
    }

    private JsonNode rehearsed(String wish) {
        return Client.good(client.post("/api/v1/lanes/l/memory", Client.JSON.readTree(wish)))
                .json()
                .path("rehearsed");
    }
}
