package org.holtra.service.journal;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.Test;

class DoubtsTest {

    private static final Instant START = Instant.parse("2026-04-12T03:20:00Z");
    private static final UUID ID = UUID.randomUUID();

    private final UncertainWrites<String> uncertain = new UncertainWrites<>();

    @Test
    void aDoubtEndsWhenWhatItIsAboutIsFound() {
        uncertain.add(ID, "a delivery");

        assertThat(uncertain.lookedFor(Set.of(ID), Set.of(ID), START)).containsExactly("a delivery");
        assertThat(uncertain.open()).isEmpty();
    }

    @Test
    void aDoubtLastsWhileNobodyCouldLookForIt() {
        uncertain.add(ID, "a delivery");

        // The database was away for an hour; only then somebody looks.
        assertThat(uncertain.open()).containsExactly(ID);
        assertThat(uncertain.lookedFor(Set.of(ID), Set.of(), START.plusSeconds(3_600)))
                .isEmpty();
        assertThat(uncertain.open()).containsExactly(ID);
    }

    @Test
    void aDoubtEndsAfterItWasLookedForLongerThanATransactionOfADeadClientLasts() {
        uncertain.add(ID, "a delivery");

        assertThat(uncertain.lookedFor(Set.of(ID), Set.of(), START)).isEmpty();
        assertThat(uncertain.lookedFor(Set.of(ID), Set.of(), START.plusSeconds(119)))
                .isEmpty();
        assertThat(uncertain.lookedFor(Set.of(ID), Set.of(), START.plusSeconds(121)))
                .containsExactly("a delivery");
        assertThat(uncertain.open()).isEmpty();
    }
}
