package org.holtra.service.journal;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

class BacklogTest {

    private static final TestService SERVICE = TestService.start(TestDatabase.fresh());
    private static final Client CLIENT = SERVICE.client();

    @BeforeAll
    static void sendSome() {
        CLIENT.save("b", Map.of("form", "bearer", "token", "token-token"));
        Client.good(CLIENT.adopt("""
                inlets:
                  b: {kind: http, at: {path: b, credential: b}, device: data.id}
                outlets:
                  first: {kind: http, to: {url: "http://127.0.0.1:1"}, state: closed}
                  second: {kind: http, to: {url: "http://127.0.0.1:1"}, state: closed}
                lanes:
                  all: {inlets: [b], outlet: first}
                  cold: {inlets: [b], pick: data.t < 0, outlet: first, order: device}
                """));
        for (int i = 0; i < 9; i++) {
            CLIENT.send("b", "{\"id\":\"a\",\"t\":" + (i - 3) + "}");
        }
    }

    @AfterAll
    static void end() {
        SERVICE.close();
    }

    private static List<String> counted() {
        return SERVICE.database()
                .texts("select lane || ' ' || outlet || ' ' || sum(messages) from backlog group by lane, outlet"
                        + " having sum(messages) != 0 order by 1");
    }

    private static List<String> there() {
        return SERVICE.database()
                .texts("select lane || ' ' || outlet || ' ' || count(*) from owed group by lane, outlet order by 1");
    }

    private static JsonNode lane(String name) {
        for (JsonNode lane : CLIENT.get("/api/v1/lanes")) {
            if (lane.path("lane").asString().equals(name)) {
                return lane;
            }
        }
        throw new AssertionError("there is no lane " + name);
    }

    @Test
    void countsWhatIsAddedMovedAndTakenAwayBehindItsBackTooAndAddsItUp() {
        assertThat(there()).containsExactly("all first 9", "cold first 3");
        assertThat(counted()).isEqualTo(there());

        SERVICE.database().execute("update owed set outlet = 'second' where lane = 'cold'");
        SERVICE.database().execute("""
                delete from owed where id in (select id from owed where lane = 'all' order by message limit 2)""");
        assertThat(there()).containsExactly("all first 7", "cold second 3");
        assertThat(counted()).isEqualTo(there());

        Client.await(
                () -> SERVICE.database()
                        .texts(
                                "select lane from backlog group by lane, outlet having count(*) > 1 or sum(messages) = 0"),
                List::isEmpty);
        assertThat(counted()).isEqualTo(there());
        assertThat(lane("all").path("owes").asInt()).isEqualTo(7);
        assertThat(lane("all").path("oldest").asString())
                .isEqualTo(SERVICE.database()
                        .texts("select to_char(min(received) at time zone 'UTC', 'YYYY-MM-DD\"T\"HH24:MI:SS.MS\"Z\"')"
                                + " from owed where lane = 'all'")
                        .getFirst());
    }
}
