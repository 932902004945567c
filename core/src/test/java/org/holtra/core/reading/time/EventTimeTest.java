package org.holtra.core.reading.time;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

public class EventTimeTest {

    @ParameterizedTest
    @CsvSource({
        "2026-04-12T03:20:00Z,            2026-04-12T03:20:00Z",
        "2026-04-12T05:20:00+02:00,       2026-04-12T03:20:00Z",
        "2026-04-12 03:20:00.123456789Z,  2026-04-12T03:20:00.123456Z"
    })
    void readsTextOfRfc3339AndCutsItToWhatTheStoreKeeps(String text, Instant time) {
        assertThat(EventTime.of(text)).contains(time);
    }

    @ParameterizedTest
    @CsvSource({"1775964000, 2026-04-12T03:20:00Z", "1775964000250, 2026-04-12T03:20:00.250Z"})
    void tellsSecondsFromMillisecondsBySize(double number, Instant time) {
        assertThat(EventTime.of(number)).contains(time);
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "yesterday", "2026-04-12T03:20:00", "2026-13-01T00:00:00Z", "+10000-01-01T00:00:00Z"})
    void hasNoTimeForOtherText(String text) {
        assertThat(EventTime.of(text)).isEmpty();
    }

    @Test
    void hasNoTimeForOtherValues() {
        assertThat(EventTime.of(null)).isEmpty();
        assertThat(EventTime.of(true)).isEmpty();
        assertThat(EventTime.of(Double.NaN)).isEmpty();
        assertThat(EventTime.of(-1)).isEmpty();
    }
}
