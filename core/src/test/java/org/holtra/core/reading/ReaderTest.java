package org.holtra.core.reading;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Map;
import java.util.Random;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageIds;
import org.holtra.core.message.Reading;
import org.holtra.core.message.Sort;
import org.holtra.core.setup.Inlet;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ReaderTest {

    private static final Instant NOW = Instant.parse("2026-04-12T03:20:00.123Z");

    private final ExpressionCompiler expressions = new ExpressionCompiler();
    private final MessageIds ids = new MessageIds(InstantSource.fixed(NOW), new Random(1));
    private final Reader reader = new Reader();

    private Reading read(String body) throws Exception {
        Inlet inlet = new Inlet(
                "network-server",
                "any",
                Map.of(),
                expressions.expression("data.device.eui"),
                expressions.expression("data.at"),
                expressions.expression("has(data.fault) ? 'fault' : data.kind"),
                expressions.condition("'simulated' in data.tags"));
        return reader.read(
                new Arrival(
                        ids.next(), "network-server", "", "", Map.of(), null, body.getBytes(StandardCharsets.UTF_8)),
                inlet);
    }

    @Test
    void tellsDeviceTimeSortAndMark() throws Exception {
        Reading reading = read(
                "{\"device\":{\"eui\":\"cs-07\"},\"at\":\"2026-04-12T05:19:58+02:00\",\"kind\":\"status\",\"tags\":[\"simulated\"]}");

        assertThat(reading).isInstanceOfSatisfying(Reading.Read.class, read -> {
            assertThat(read.message().device()).isEqualTo("cs-07");
            assertThat(read.message().eventTime()).isEqualTo("2026-04-12T03:19:58Z");
            assertThat(read.message().sort()).isEqualTo(Sort.STATUS);
            assertThat(read.message().simulated()).isTrue();
            assertThat(read.message().note()).isNull();
        });
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
                    {"device":| the body is not JSON
                    {"a":1} x| the body is not JSON
                    {"a":1,"a":2}| the body is not JSON: Duplicate Object property "a"
                    {"at":1}| the device could not be told: data.device.eui is not there
                    {"device":{"eui":{}},"kind":"reading"}| the device's key is an object of 0 fields, a text was expected
                    {"device":{"eui":" "},"kind":"reading"}| the device's key is "", a text of 1 to 200 characters
                    {"device":{"eui":"a\\u0000b"},"kind":"reading"}| the device's key is "a·b", a text of 1 to 200 characters
                    {"device":{"eui":"a"},"kind":"gossip"}| the sort is "gossip", one of reading, status, fault, event, alarm, result was expected
                    {"device":{"eui":"a"}}| the sort could not be told: data.kind is not there
                    """)
    void whatCannotBeReadIsKeptWithItsReason(String body, String reason) throws Exception {
        assertThat(read(body.strip()))
                .isInstanceOfSatisfying(
                        Reading.Unreadable.class,
                        unreadable -> assertThat(unreadable.reason()).startsWith(reason));
    }

    @Test
    void anEmptyBodyIsUnreadable() throws Exception {
        assertThat(read(""))
                .isInstanceOfSatisfying(
                        Reading.Unreadable.class,
                        unreadable ->
                                assertThat(unreadable.reason()).isEqualTo("the body is empty, JSON was expected"));
    }

    @ParameterizedTest
    @CsvSource({
        "'\"yesterday\"', \"yesterday\" is not a time",
        "'null', null is not a time",
        "'-5', -5 is not a time",
        "'1e300', 1.0E300 is not a time"
    })
    void aTimeThatCannotBeToldIsTheTimeOfArrivalWithANote(String at, String why) throws Exception {
        Reading reading = read("{\"device\":{\"eui\":\"a\"},\"kind\":\"reading\",\"at\":" + at + "}");

        assertThat(reading).isInstanceOfSatisfying(Reading.Read.class, read -> {
            assertThat(read.message().eventTime()).isEqualTo(NOW);
            assertThat(read.message().note()).endsWith(why);
        });
    }

    @ParameterizedTest
    @CsvSource({
        "1775964000, 2026-04-12T03:20:00Z",
        "1775964000123, 2026-04-12T03:20:00.123Z",
        "1775964000.5, 2026-04-12T03:20:00.500Z"
    })
    void numbersAreSecondsOrMilliseconds(String at, String time) throws Exception {
        assertThat(read("{\"device\":{\"eui\":\"a\"},\"kind\":\"reading\",\"at\":" + at + "}"))
                .isInstanceOfSatisfying(
                        Reading.Read.class,
                        read -> assertThat(read.message().eventTime()).isEqualTo(time));
    }

    @Test
    void nestingWithoutEndIsUnreadable() throws Exception {
        assertThat(read("[".repeat(1_000_000))).isInstanceOf(Reading.Unreadable.class);
    }
}
