package org.holtra.service.kinds.mqtt;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import org.junit.jupiter.api.Test;

class SubscribedTest {

    @Test
    void itIsReadAsItWasWritten() {
        Subscribed subscribed = new Subscribed(1, List.of("a/+", "$share/g/b"));

        assertThat(Subscribed.of(subscribed.text())).isEqualTo(subscribed);
        assertThat(Subscribed.of("")).isEqualTo(Subscribed.NONE);
        assertThat(Subscribed.of("no JSON")).isEqualTo(Subscribed.NONE);
    }

    @Test
    void whatIsNoLongerWantedIsTold() {
        Subscribed before = new Subscribed(1, List.of("a", "b"));

        assertThat(before.without(new Subscribed(1, List.of("b", "c")))).containsExactly("a");
    }

    @Test
    void itCoversFewerFiltersOfTheSameQosOnly() {
        Subscribed before = new Subscribed(1, List.of("a", "b"));

        assertThat(before.covers(new Subscribed(1, List.of("b")))).isTrue();
        assertThat(before.covers(new Subscribed(2, List.of("b")))).isFalse();
        assertThat(before.covers(new Subscribed(1, List.of("c")))).isFalse();
    }
}
