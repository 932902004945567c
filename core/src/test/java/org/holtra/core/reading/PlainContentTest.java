package org.holtra.core.reading;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageIds;
import org.holtra.core.message.Reading;
import org.holtra.core.message.Transport;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.PointSpec;
import org.holtra.core.setup.SetupSamples;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** An old soil logger sends each depth as a bare number to an address of its own. */
class PlainContentTest {

    private static final Model PROBE = new Model(
            "probe",
            null,
            Map.of(),
            Map.of("d10", new PointSpec(Map.of("moisture", "moisture10"), Map.of())),
            Map.of(),
            Map.of(),
            null,
            List.of());

    private final Reader reader = new Reader((codec, bytes, port, received) -> {
        throw new AssertionError("there is no codec");
    });

    private Reading read(String inlet, String type, String body, String depth, Model model) throws UnreadableContent {
        Arrival arrival = new Arrival(
                new MessageIds(InstantSource.fixed(Instant.EPOCH.plusSeconds(86_400)), new Random(1)).next(),
                "in",
                Transport.of("127.0.0.1", "/in/soil").with("path", Map.of("depth", depth)),
                type,
                body.getBytes(StandardCharsets.UTF_8));
        return reader.finish(reader.open(arrival, SetupSamples.inlet(inlet)), new Known(model, null, null));
    }

    private static Object data(Reading reading) {
        assertThat(reading).isInstanceOf(Reading.Read.class);
        return ((Reading.Read) reading).message().data();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
            text/plain       | 21.5      | {moisture10=21.5}
            text/plain       | dry       | {moisture10=dry}
            application/json | 21.5      | {moisture10=21.5}
            application/json | "dry"     | {moisture10=dry}
            application/json | true      | {moisture10=true}
            application/json | {"t":1}   | {t=1.0}
            application/json | [1]       | [1.0]
            """)
    void aBareValueIsTheFieldOfItsPoint(String type, String body, String data) throws UnreadableContent {
        assertThat(data(read("value: {field: \"'moisture'\", point: meta.path.depth}", type, body, "d10", PROBE)))
                .hasToString(data);
    }

    @Test
    void aPointThatTheModelDoesNotHaveKeepsItsValuesApart() throws UnreadableContent {
        String inlet = "value: {field: \"'moisture'\", point: meta.path.depth}";

        assertThat(data(read(inlet, "text/plain", "7", "d30", PROBE))).hasToString("{d30_moisture=7.0}");
        assertThat(data(read(inlet, "text/plain", "7", "d30", null))).hasToString("{d30_moisture=7.0}");
    }

    @Test
    void withoutAPointTheFieldIsTheDevices() throws UnreadableContent {
        assertThat(data(read("value: {field: meta.path.depth}", "text/plain", "7", "moisture", PROBE)))
                .hasToString("{moisture=7.0}");
    }

    @ParameterizedTest
    @CsvSource({
        "meta.path.level, the field of the value could not be told",
        "'\"\"', 'the field of the value is \"\", and a name was expected'"
    })
    void aNameThatCannotBeToldIsAReason(String field, String reason) throws UnreadableContent {
        Reading reading = read("value: {field: '" + field + "'}", "text/plain", "7", "d10", PROBE);

        assertThat(reading)
                .isInstanceOfSatisfying(
                        Reading.Unreadable.class,
                        unreadable -> assertThat(unreadable.reason()).startsWith(reason));
    }
}
