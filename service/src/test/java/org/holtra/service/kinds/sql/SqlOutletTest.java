package org.holtra.service.kinds.sql;

import static org.assertj.core.api.Assertions.assertThat;

import java.net.URI;
import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import org.holtra.service.support.Client;
import org.holtra.service.support.SharedServiceTest;
import org.holtra.service.support.TestDatabase;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Deliveries that become rows of a real table. */
class SqlOutletTest extends SharedServiceTest {

    private TestDatabase reports;

    @BeforeEach
    void makeDatabase() {
        reports = TestDatabase.empty();
        client.save("reports", Map.of("form", "login", "user", "holtra", "password", reports.password()));
    }

    private String address() {
        URI url = URI.create(reports.url().substring("jdbc:".length()));
        return "postgresql://" + url.getHost() + ":" + url.getPort() + url.getPath();
    }

    private void adopt(String to, String more, String body) {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id}
                outlets:
                  o: {kind: sql, to: {address: "%s", credential: reports, table: readings%s}%s}
                lanes:
                  l: {inlets: [i], outlet: o, order: device, shape: {body: %s}, retry: {first: 200ms}}
                """.formatted(address(), to, more, body)));
    }

    private static final String BODY = "{device: \"${device.key}\", n: \"${data.n}\", measured: \"${meta.eventTime}\"}";

    private void table(String more) {
        reports.execute(
                "create table readings (message_key text primary key, device text, n integer, measured timestamptz"
                        + more + ")");
    }

    private String send(String n) {
        return client.send("i", "{\"id\":\"north\",\"n\":" + n + "}");
    }

    private List<String> rows() {
        return reports.texts("select device || ' ' || n from readings order by n");
    }

    private JsonNode outlet() {
        return client.get("/api/v1/outlets").get(0);
    }

    private JsonNode step(String name) {
        JsonNode steps =
                Client.good(client.post("/api/v1/outlets/o/check", Map.of())).json();
        return steps.valueStream()
                .filter(step -> step.path("step").asString().equals(name))
                .findFirst()
                .orElseThrow(() -> new AssertionError(steps.toString()));
    }

    @Test
    void eachMessageIsARowUnderItsKey() {
        table("");
        adopt("", "", BODY);

        String id = send("5");

        JsonNode trace = becomes(id, "delivered");
        assertThat(rows()).containsExactly("north 5");
        assertThat(reports.texts("select message_key from readings")).containsExactly(id + ".l");
        assertThat(trace.toString()).contains("insert into").contains("00000");
    }

    @Test
    void aDeliveryThatIsMadeAgainUnderItsKeyMakesNoSecondRow() {
        table("");
        adopt("", "", BODY);
        String id = client.send("i", "{\"id\":\"again\",\"n\":5}");
        becomes(id, "delivered");
        reports.execute("update readings set n = 6");

        Client.good(client.post(
                "/api/v1/replays",
                Map.of(
                        "lane",
                        "l",
                        "device",
                        "again",
                        "sameKey",
                        true,
                        "from",
                        "2000-01-01T00:00:00Z",
                        "to",
                        "2100-01-01T00:00:00Z")));

        client.traceWhen(id, trace -> trace.at("/replays/0/state").asString("").equals("delivered"));
        assertThat(rows()).containsExactly("again 6");
    }

    @Test
    void rowsAreUpdatedByTheColumnsThatTellThemApart() {
        reports.execute("create table readings (device text primary key, n integer, measured timestamptz)");
        adopt(", updates: [device]", "", BODY);

        becomes(send("1"), "delivered");
        becomes(send("2"), "delivered");

        assertThat(rows()).containsExactly("north 2");
    }

    @Test
    void ofABatchOnlyTheRowAtFaultIsRefused() {
        table(", check (n < 100)");
        adopt("", ", batch: {messages: 10, wait: 300ms}", BODY);

        String first = send("1");
        String wrong = send("200");
        String last = send("3");

        becomes(first, "delivered");
        becomes(last, "delivered");
        JsonNode dead = becomes(wrong, "dead");
        assertThat(dead.toString()).contains("23514").contains("the database refuses the row");
        assertThat(rows()).containsExactly("north 1", "north 3");
    }

    @Test
    void aDevicesBacklogGoesInFewTransactionsAndInItsOrder() {
        reports.execute("create table readings (message_key text primary key, device text, n integer, measured"
                + " timestamptz, at serial, check (n != 7))");
        adopt("", ", state: closed, batch: {messages: 50, wait: 1s}", BODY);
        List<String> ids = IntStream.range(0, 40)
                .mapToObj(Integer::toString)
                .map(this::send)
                .toList();

        adopt("", ", batch: {messages: 50, wait: 1s}", BODY);

        JsonNode last = becomes(ids.getLast(), "delivered");
        becomes(ids.get(7), "dead");
        assertThat(reports.texts("select n from readings order by at"))
                .isEqualTo(IntStream.range(0, 40)
                        .filter(n -> n != 7)
                        .mapToObj(Integer::toString)
                        .toList());
        assertThat(last.toString()).contains("40 rows");
    }

    @Test
    void aMissingTableBlocksTheOutletAndItsCheckSaysHowToMakeOne() {
        adopt("", "", BODY);
        String id = send("1");
        Client.await(() -> outlet().path("state").asString(), "blocked"::equals);
        assertThat(outlet().path("reason").asString()).contains("there is no table public.readings");
        assertThat(step("table found").path("mend").asString())
                .contains("create table public.readings (message_key text primary key, device text, n double precision,"
                        + " measured timestamptz);");

        table("");
        Client.good(client.post("/api/v1/outlets/o/try", Map.of()));

        becomes(id, "delivered");
    }

    @Test
    void aMissingColumnIsNamed() {
        table("");
        adopt("", "", "{device: a, colour: red}");
        send("1");

        Client.await(() -> outlet().path("reason").asString(""), reason -> reason.contains("\"colour\""));
    }

    @Test
    void theCheckLooksAtWhatLanesWouldWrite() {
        reports.execute(
                "create table readings (message_key text primary key, devise text, n integer not null, kind text not null)");
        adopt("", "", BODY);
        send("5");
        Client.await(() -> step("columns").path("told").asString(), told -> told.contains("is devise meant?"));

        reports.execute("alter table readings rename devise to device");
        assertThat(step("columns").path("told").asString()).isEqualTo("the table has no column measured");
        reports.execute("alter table readings add measured integer");
        assertThat(step("columns").path("told").asString())
                .startsWith("column measured is of type integer, and a lane would write `20");
        reports.execute("alter table readings drop measured, add measured timestamptz");
        assertThat(step("columns").path("told").asString())
                .isEqualTo("a lane would write nothing into kind, which must not be empty");
        reports.execute("alter table readings alter kind set default 'soil'");
        assertThat(step("columns").path("result").asString()).isEqualTo("passed");
    }

    @Test
    void aTableWithoutAKeyIsFoundByTheCheck() {
        reports.execute("create table readings (device text, n integer, measured timestamptz)");
        adopt("", "", BODY);
        assertThat(step("known again").path("told").asString()).isEqualTo("the table has no column message_key");

        reports.execute("alter table readings add column message_key text");
        assertThat(step("known again").path("mend").asString())
                .contains("create unique index on public.readings (message_key)");

        reports.execute("create unique index on readings (message_key)");
        assertThat(step("known again").path("result").asString()).isEqualTo("passed");
        assertThat(step("allowed").path("result").asString()).isEqualTo("passed");
    }

    @Test
    void aDatabaseThatIsNotThereIsToldAndTheOutletWaits() {
        table("");
        adopt("", "", BODY);
        String setup = """
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id}
                outlets:
                  o: {kind: sql, to: {address: "postgresql://127.0.0.1:1/none", credential: reports, table: readings}}
                lanes:
                  l: {inlets: [i], outlet: o, shape: {body: {n: 1}}}
                """;
        Client.good(client.adopt(setup));
        send("1");

        Client.await(() -> outlet().path("state").asString(), "broken"::equals);
        assertThat(outlet().path("reason").asString()).contains("nobody listens at 127.0.0.1, port 1");
        assertThat(step("connected").path("result").asString()).isEqualTo("failed");
    }
}
