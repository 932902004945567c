package org.holtra.service.brokers;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class TopicPatternTest {

    @Test
    void aLevelInBracesIsAnyAndGivesItsName() {
        TopicPattern pattern = TopicPattern.of("site/{station}/{pump}");

        assertThat(pattern.filter()).isEqualTo("site/+/+");
        assertThat(pattern.names("site/north/2")).contains(Map.of("station", "north", "pump", "2"));
        assertThat(pattern.names("site/north")).isEmpty();
        assertThat(pattern.names("site/north/2/flow")).isEmpty();
        assertThat(pattern.names("other/north/2")).isEmpty();
    }

    @ParameterizedTest
    @CsvSource({
        "a/b, a/b, true",
        "a/b, a/c, false",
        "a/+, a/b, true",
        "a/+, a/b/c, false",
        "a/#, a/b/c, true",
        "a/#, a, true",
        "a/#, ab, false",
        "#, a/b, true",
        "#, $SYS/uptime, false",
        "+/uptime, $SYS/uptime, false",
        "$SYS/#, $SYS/uptime, true",
        "a/+/c, a//c, true"
    })
    void filtersMatchTopicsAsTheStandardSays(String filter, String topic, boolean matches) {
        assertThat(TopicPattern.of(filter).names(topic).isPresent()).isEqualTo(matches);
    }

    @ParameterizedTest
    @CsvSource({
        "a/#/b, can only be the last",
        "a+/b, stand for whole levels",
        "a/b#, stand for whole levels",
        "a/{b, a name in braces stands for a whole level",
        "a/x{b}, a name in braces stands for a whole level",
        "$share/g/a, name the group as `share`"
    })
    void aFilterThatIsNoneIsRefusedWithTheReason(String filter, String reason) {
        assertThatThrownBy(() -> TopicPattern.of(filter))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining(reason);
    }

    @Test
    void anEmptyFilterIsRefused() {
        assertThatThrownBy(() -> TopicPattern.of("")).hasMessageContaining("1 to 65,535 characters");
    }
}
