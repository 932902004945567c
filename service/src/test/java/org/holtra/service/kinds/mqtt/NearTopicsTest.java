package org.holtra.service.kinds.mqtt;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.stream.Stream;
import org.holtra.service.brokers.TopicPattern;
import org.junit.jupiter.api.Test;

class NearTopicsTest {

    private static List<String> near(List<String> filters, String... topics) {
        return NearTopics.of(filters.stream().map(TopicPattern::of).toList(), List.of(topics), 3);
    }

    @Test
    void aMisspeltLevelIsNear() {
        assertThat(near(List.of("pumps/+/status"), "pump/north/status", "weather/mast/1"))
                .containsExactly("pump/north/status");
    }

    @Test
    void anotherCaseIsNearerThanOtherLetters() {
        assertThat(near(List.of("Pumps/{house}"), "pumps/north", "Pumpz/north"))
                .containsExactly("pumps/north", "Pumpz/north");
    }

    @Test
    void aMissingBaseOrALevelTooManyIsNear() {
        assertThat(near(List.of("larkmoor/pumps/+/flow"), "pumps/north/flow")).hasSize(1);
        assertThat(near(List.of("pumps/+/flow"), "larkmoor/pumps/north/flow")).hasSize(1);
    }

    @Test
    void whatIsBelowAnOpenFilterCountsForNothing() {
        assertThat(near(List.of("pumps/#"), "pump/north/2/flow/raw", "field/north/2"))
                .containsExactly("pump/north/2/flow/raw");
    }

    @Test
    void whatTheFiltersTakeIsNotNearButThere() {
        assertThat(near(List.of("pumps/#", "pump/+"), "pump/north")).isEmpty();
    }

    @Test
    void otherTopicsAreNotNear() {
        assertThat(near(List.of("pumps/+/status"), "weather/mast/1", "a/b", "field/north/status"))
                .isEmpty();
    }

    @Test
    void theNearestComeFirstAndOnlySoMany() {
        String[] topics = Stream.of("pump", "pumpss", "pmps", "pumbs")
                .map(base -> base + "/1")
                .toArray(String[]::new);

        assertThat(near(List.of("pumps/1"), topics)).hasSize(3);
    }
}
