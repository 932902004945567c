package org.holtra.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import org.holtra.cli.AnsweredService.Ran;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;
import picocli.CommandLine.TypeConversionException;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.JsonNodeFactory;

/** How values, tables and states are told to people. */
class TellingTest {

    private final AnsweredService service = new AnsweredService();

    @AfterEach
    void close() {
        service.close();
    }

    @ParameterizedTest
    @CsvSource({"0, 0 s", "119, 119 s", "120, 2 min", "7199, 119 min", "7200, 2 h", "172799, 47 h", "172800, 2 days"})
    void lengthsAreToldInTheLargestUnitThatSaysEnough(long seconds, String told) {
        assertThat(Words.length(Duration.ofSeconds(seconds))).isEqualTo(told);
    }

    @Test
    void timesThatAreToComeAreToldAsSuch() {
        assertThat(Words.since(instant(Instant.now().minusSeconds(600)))).isEqualTo("10 min ago");
        assertThat(Words.since(instant(Instant.now().plusSeconds(605)))).isEqualTo("in 10 min");
        assertThat(Words.since(JsonNodeFactory.instance.nullNode())).isEmpty();
    }

    private static JsonNode instant(Instant at) {
        return JsonNodeFactory.instance.stringNode(at.toString());
    }

    @ParameterizedTest
    @CsvSource({"30s, 30", "30m, 1800", "2h, 7200", "1d, 86400"})
    void lengthsOfTimeAreWrittenWithTheirUnit(String text, long seconds) {
        assertThat(new LengthConverter().convert(text)).isEqualTo(Duration.ofSeconds(seconds));
    }

    @ParameterizedTest
    @ValueSource(strings = {"30", "m", "-3m", "3 m", "1w", "1.5h", "99999999d", ""})
    void otherLengthsAreRefused(String text) {
        assertThatThrownBy(() -> new LengthConverter().convert(text))
                .isInstanceOf(TypeConversionException.class)
                .hasMessageContaining("such as 30m");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {"{\"a\":[1,2.50,true,null,\"x\"],\"b\":{}}", "[]", "12345678901234567890", "0.5", "\"\u00e4\""})
    void jsonIsReadAsItIs(String text) {
        assertThat(JsonTree.parse(text.getBytes(StandardCharsets.UTF_8))).hasToString(text);
    }

    @ParameterizedTest
    @ValueSource(strings = {"{\"a\":", "{\"a\"}", "[1,", "nul", "{]"})
    void whatIsNoJsonIsNotTakenForSome(String text) {
        assertThatThrownBy(() -> JsonTree.parse(text.getBytes())).isInstanceOf(JacksonException.class);
    }

    @Test
    void columnsAreAsWideAsTheirWidestCellAndNumbersStandToTheRight() {
        service.answers("GET /api/v1/keys", 200, """
                [{"name":"a","created":"2026-04-12T03:00:00Z","createdBy":"admin","lastUsed":null},
                 {"name":"importer-of-reports","created":"2026-04-12T03:00:00Z","createdBy":"b","lastUsed":null}]
                """);

        String[] lines = service.holtra("key", "list").out().split("\n");

        assertThat(lines).hasSize(3);
        assertThat(lines[1].indexOf("admin")).isEqualTo(lines[2].lastIndexOf("b"));
        assertThat(lines[1]).doesNotEndWith(" ");
    }

    private static String balance(int missing) {
        return """
                {"from":"2026-04-12T03:00:00Z","to":"2026-04-12T04:00:00Z","missing":%d,
                 "intake":{"acknowledged":10,"read":7,"unreadable":1,"unclaimed":1,"duplicates":1,"unrouted":2,"spooled":0,
                           "unacknowledged":3,"missing":%d,"deferred":0},
                 "lanes":[{"lane":"frost-calls","taken":5,"delivered":4,"dead":1}]}
                """.formatted(missing, missing);
    }

    @Test
    void aBalanceThatIsEvenIsToldAndScriptsKnow() {
        service.answers("GET /api/v1/balance", 200, balance(0));

        Ran ran = service.holtra("balance", "--last", "1h");

        assertThat(ran.exit()).isZero();
        assertThat(ran.out())
                .contains("10 acknowledged = 7 read + 1 unreadable + 1 unclaimed + 1 duplicates")
                .contains("− 3 kept before their senders were answered")
                .contains("2 of the messages read are unrouted");
    }

    @Test
    void aBalanceThatIsNotEvenEndsWithOne() {
        service.answers("GET /api/v1/balance", 200, balance(2));
        service.answers("GET /api/v1/balance/differences", 200, """
                [{"message":"m1","received":"2026-04-12T03:00:00Z","lane":null,"what":"acknowledged, and not in the journal"}]
                """);

        Ran ran = service.holtra("balance");

        assertThat(ran.exit()).isEqualTo(Holtra.NOT_WELL);
        assertThat(ran.out()).contains("2 are missing.", "m1", "acknowledged, and not in the journal");
    }

    private static String status(String more) {
        return """
                {"version":"1","setupRevision":4,"started":"2026-04-12T03:00:00Z","inlets":2,"lanes":3,"outlets":1,
                 "waiting":6,"dead":0,"troubles":[],"stopped":[],"databaseAway":false,"nodes":[{}],"spools":[]%s}
                """.formatted(more);
    }

    @Test
    void whatIsNotWellIsSaidAndScriptsKnow() {
        service.answers("GET /api/v1/status", 200, status(""));
        assertThat(service.holtra("status").exit()).isZero();

        service.answers(
                "GET /api/v1/status",
                200,
                status("").replace("\"stopped\":[]", "\"stopped\":[\"desk is blocked: 401\"]"));
        Ran ran = service.holtra("status");
        assertThat(ran.exit()).isEqualTo(Holtra.NOT_WELL);
        assertThat(ran.out()).contains("outlet desk is blocked: 401");
    }

    @Test
    void aCountThatIsSomeSecondsOldIsToldAsSuch() {
        Instant now = Instant.now();
        // Ahead, so that it is not some seconds old by the time a busy machine tells it.
        service.answers("GET /api/v1/status", 200, status(",\"countedAt\":\"" + now.plusSeconds(600) + "\""));
        assertThat(service.holtra("status").out()).contains("6 deliveries wait, 0 are dead\n");

        service.answers("GET /api/v1/status", 200, status(",\"countedAt\":\"" + now.minusSeconds(20) + "\""));
        assertThat(service.holtra("status").out()).contains("6 deliveries wait, 0 are dead, as counted at ");
    }

    @Test
    void countsThatAreNotKnownAreNotToldAsZero() {
        service.answers(
                "GET /api/v1/status", 200, status("").replace("\"databaseAway\":false", "\"databaseAway\":true"));

        Ran ran = service.holtra("status");

        assertThat(ran.exit()).isEqualTo(Holtra.NOT_WELL);
        assertThat(ran.out())
                .contains("is not known while the database is away")
                .doesNotContain("6 deliveries");
    }

    @Test
    void whatIsSpooledIsToldByNode() {
        service.answers(
                "GET /api/v1/status",
                200,
                status("")
                        .replace(
                                "\"spools\":[]",
                                "\"spools\":[{\"node\":\"one\",\"messages\":40,\"oldest\":\"2026-04-12T03:00:00Z\"},{\"node\":\"two\",\"messages\":0}]"));

        assertThat(service.holtra("status").out())
                .contains("40 messages are spooled on node one")
                .doesNotContain("node two");
    }
}
