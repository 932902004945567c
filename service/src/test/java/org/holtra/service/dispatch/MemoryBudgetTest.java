package org.holtra.service.dispatch;

import static org.assertj.core.api.Assertions.assertThat;

import org.holtra.service.support.TestSettings;
import org.junit.jupiter.api.Test;

class MemoryBudgetTest {

    private static final int MEGABYTE = 1 << 20;

    private final MemoryBudget budget = new MemoryBudget(TestSettings.with("memory-megabytes", 1));

    @Test
    void whatFindsNoRoomIsRefusedAndLeavesTheRoomToSmallerOnes() {
        assertThat(budget.take(MEGABYTE)).isFalse();
        assertThat(budget.take(100_000)).isTrue();
        assertThat(budget.take(200_000)).isFalse();
        assertThat(budget.take(100_000)).isTrue();
    }

    @Test
    void whatIsGivenBackCanBeTakenAgain() {
        assertThat(budget.take(200_000)).isTrue();
        assertThat(budget.take(200_000)).isFalse();

        budget.give(200_000);

        assertThat(budget.take(200_000)).isTrue();
    }

    @Test
    void emptyBodiesAreBoundedToo() {
        int taken = 0;
        while (budget.take(0)) {
            taken++;
        }

        assertThat(taken).isBetween(100, 1_000);
    }

    @Test
    void whatWasClaimedIsCountedThoughThereIsNoRoomForIt() {
        budget.force(MEGABYTE);

        assertThat(budget.take(0)).isFalse();
        budget.give(MEGABYTE);
        assertThat(budget.take(0)).isTrue();
    }
}
