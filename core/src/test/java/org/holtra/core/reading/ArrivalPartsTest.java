package org.holtra.core.reading;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.MessageIds;
import org.holtra.core.message.Transport;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.SetupSamples;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ArrivalPartsTest {

    private static final Instant NOW = Instant.parse("2026-04-12T03:20:00.123Z");

    private final MessageIds ids = new MessageIds(InstantSource.fixed(NOW), new Random(1));

    private Arrival arrival(String contentType, String body) {
        return new Arrival(
                ids.next(),
                "in",
                Transport.of("127.0.0.1", "/in/in"),
                contentType,
                body.getBytes(StandardCharsets.UTF_8));
    }

    private List<Arrival> parts(String inlet, String contentType, String body) throws UnreadableContent {
        return ArrivalParts.of(arrival(contentType, body), SetupSamples.inlet(inlet));
    }

    private static List<String> bodies(List<Arrival> parts) {
        return parts.stream()
                .map(part -> new String(part.body(), StandardCharsets.UTF_8))
                .toList();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
            parts: data                  | application/json | [1,"a",{"b":2},null]                | 1 # "a" # {"b":2} # null
            parts: data.m                | application/json | {"m":[{"v":1},{"v":2.5}]}           | {"v":1} # {"v":2.5}
            parts: data.a.m              | application/json | {"a":{"m":[1]}}                     | 1
            parts: data.rows             | text/csv         | id,v\\na,1\\nb,2                | {"id":"a","v":1} # {"id":"b","v":2}
            parts: data.lines            | application/x-ndjson | {"v":1}\\n{"v":                | {"v":1} # "{\\"v\\":"
            parts: data.m.filter(x, x>1) | application/json | {"m":[1,2,3]}                       | 2 # 3
            parts: 'data.text.split(",")' | text/plain      | a,b                                 | "a" # "b"
            """)
    void eachItemOfTheListIsAnArrivalOfItsOwn(String inlet, String type, String body, String parts) throws Exception {
        assertThat(bodies(parts(inlet, type, body.replace("\\n", "\n")))).containsExactly(parts.split(" # "));
    }

    @Test
    void whatStandsBesideTheListGoesWithEachPart() throws UnreadableContent {
        List<Arrival> parts =
                parts("parts: data.m", "application/json", "{\"gw\":\"g1\",\"at\":7,\"m\":[{\"v\":1},{\"v\":2}]}");

        assertThat(parts)
                .allSatisfy(part ->
                        assertThat(part.transport().fields().get("whole")).hasToString("{gw=g1, at=7}"));
        assertThat(parts.stream().map(part -> part.transport().fields().get("part")))
                .containsExactly(0.0, 1.0);
    }

    @Test
    void whatIsTooLargeToGoWithEachPartIsLeftOut() throws UnreadableContent {
        List<Arrival> parts = parts(
                "parts: data.m",
                "application/json",
                "{\"note\":\"" + "n".repeat(ArrivalParts.LARGEST_REST) + "\",\"m\":[1]}");

        assertThat(parts.getFirst().transport().fields().get("whole")).isEqualTo(Map.of());
    }

    @Test
    void idsFollowFromTheWholesAndItsTime() throws UnreadableContent {
        Inlet inlet = SetupSamples.inlet("parts: data");
        Arrival whole = arrival("application/json", "[1,1]");

        List<MessageId> first =
                ArrivalParts.of(whole, inlet).stream().map(Arrival::id).toList();

        assertThat(first).doesNotHaveDuplicates().doesNotContain(whole.id());
        assertThat(first).allMatch(id -> id.received().equals(whole.received()));
        assertThat(ArrivalParts.of(whole, inlet).stream().map(Arrival::id)).isEqualTo(first);
        assertThat(ArrivalParts.of(whole, inlet)).allMatch(part -> part.whole().equals(whole.id()));
    }

    @Test
    void aPartIsNotTakenApartAgain() throws UnreadableContent {
        Inlet inlet = SetupSamples.inlet("parts: data");
        Arrival whole = arrival("application/json", "[[1],[2]]");

        assertThat(ArrivalParts.has(whole, inlet)).isTrue();
        assertThat(ArrivalParts.has(ArrivalParts.of(whole, inlet).getFirst(), inlet))
                .isFalse();
        assertThat(ArrivalParts.has(whole, SetupSamples.inlet("{}"))).isFalse();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
            {"n":[]}   | its parts could not be told: data.m is not there
            {"m":"x"}  | its parts are "x", and a list was expected
            {"m":{}}   | its parts are an object of 0 fields, and a list was expected
            {          | the body is not JSON
            """)
    void whatHasNoListIsUnreadableWithTheReason(String body, String reason) {
        assertThatThrownBy(() -> parts("parts: data.m", "application/json", body))
                .isInstanceOf(UnreadableContent.class)
                .hasMessageStartingWith(reason);
    }

    @Test
    void anEmptyListHasNoParts() throws UnreadableContent {
        assertThat(parts("parts: data", "application/json", "[]")).isEmpty();
    }

    @Test
    void moreThanAnybodyMeansIsNotTaken() {
        String body = "[" + "1,".repeat(ArrivalParts.MOST) + "1]";

        assertThatThrownBy(() -> parts("parts: data", "application/json", body))
                .hasMessageContaining("10001 parts, more than the 10000");
    }
}
