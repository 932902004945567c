package org.holtra.service.journal;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.Test;

class DoubtsTest {

    private static final Instant START = Instant.parse("2026-04-12T03:20:00Z");
    private static final UUID ID = UUID.randomUUID();

    private final Doubts<String> doubts = new Doubts<>();

    @Test
    void aDoubtEndsWhenWhatItIsAboutIsFound() {
        doubts.add(ID, "a delivery");

        assertThat(doubts.lookedFor(Set.of(ID), Set.of(ID), START)).containsExactly("a delivery");
        assertThat(doubts.open()).isEmpty();
    }

    @Test
    void aDoubtLastsWhileNobodyCouldLookForIt() {
        doubts.add(ID, "a delivery");

        // The database was away for an hour; only then somebody looks.
        assertThat(doubts.open()).containsExactly(ID);
        assertThat(doubts.lookedFor(Set.of(ID), Set.of(), START.plusSeconds(3_600)))
                .isEmpty();
        assertThat(doubts.open()).containsExactly(ID);
    }

    @Test
    void aDoubtEndsAfterItWasLookedForLongerThanATransactionOfADeadClientLasts() {
        doubts.add(ID, "a delivery");

        assertThat(doubts.lookedFor(Set.of(ID), Set.of(), START)).isEmpty();
        assertThat(doubts.lookedFor(Set.of(ID), Set.of(), START.plusSeconds(119)))
                .isEmpty();
        assertThat(doubts.lookedFor(Set.of(ID), Set.of(), START.plusSeconds(121)))
                .containsExactly("a delivery");
        assertThat(doubts.open()).isEmpty();
    }
}
