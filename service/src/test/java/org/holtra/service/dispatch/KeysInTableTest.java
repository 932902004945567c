package org.holtra.service.dispatch;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Set;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

class KeysInTableTest {

    private final KeysInTable keys = new KeysInTable();

    @BeforeEach
    void theTableWasFoundEmpty() {
        keys.passed(Set.of(), keys.look());
    }

    @Test
    void allKeysCountAsBeingThereUntilTheTableHasBeenGoneThrough() {
        KeysInTable fresh = new KeysInTable();
        assertThat(fresh.has("a")).isTrue();

        fresh.passed(Set.of("b"), fresh.look());

        assertThat(fresh.has("a")).isFalse();
        assertThat(fresh.has("b")).isTrue();
    }

    @Test
    void aKeyIsThereFromTheMomentSomethingIsOnItsWay() {
        keys.leaves("a");

        assertThat(keys.has("a")).isTrue();
    }

    @Test
    void aKeyIsStruckOffOnlyByALookThatBeganAfterItArrived() {
        keys.leaves("a");
        long tooEarly = keys.look();
        keys.arrived("a");

        keys.taken(Set.of("a"), tooEarly);
        assertThat(keys.has("a")).isTrue();

        keys.taken(Set.of("a"), keys.look());
        assertThat(keys.has("a")).isFalse();
    }

    @Test
    void aKeyStaysWhileAnotherOfItIsOnItsWay() {
        keys.leaves("a");
        keys.leaves("a");
        keys.arrived("a");

        keys.taken(Set.of("a"), keys.look());

        assertThat(keys.has("a")).isTrue();
        keys.arrived("a");
        keys.taken(Set.of("a"), keys.look());
        assertThat(keys.has("a")).isFalse();
    }

    @Test
    void aPassKeepsWhatItLeftAndWhatArrivedAfterItBegan() {
        keys.leaves("old");
        keys.arrived("old");
        long first = keys.look();
        keys.leaves("new");
        keys.arrived("new");

        keys.passed(Set.of("left"), first);

        assertThat(keys.has("old")).isFalse();
        assertThat(keys.has("new")).isTrue();
        assertThat(keys.has("left")).isTrue();
    }

    @Test
    void aPassThatBeganBeforeADoubtDoesNotEndIt() {
        long before = keys.look();
        keys.look();
        keys.doubtAll();

        keys.passed(Set.of(), before);
        assertThat(keys.has("a")).isTrue();

        keys.passed(Set.of(), keys.look());
        assertThat(keys.has("a")).isFalse();
    }

    @Test
    void moreKeysThanItRemembersCountAsAll() {
        for (int number = 0; number <= KeysInTable.BOUND; number++) {
            keys.arrived("k" + number);
        }

        assertThat(keys.has("another")).isTrue();
    }
}
