package org.holtra.service.dispatch;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import org.holtra.service.support.TestSettings;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class LaneQueuesTest {

    private final MemoryBudget budget = new MemoryBudget(TestSettings.with("memory-megabytes", 64));
    private final LaneQueues queues = new LaneQueues(budget);

    @BeforeEach
    void theTableIsEmpty() {
        emptyTable("a");
        emptyTable("b");
    }

    private void emptyTable(String lane) {
        KeysInTable table = queues.table(lane);
        table.passed(Set.of(), table.look());
    }

    private Task put(String lane, String key) {
        Task task = Tasks.of(lane, key);
        assertThat(queues.reserve(lane, key, task.bytes())).isTrue();
        assertThat(queues.fill(task)).isTrue();
        return task;
    }

    private Task next() {
        return queues.next().orElseThrow();
    }

    @Test
    void lanesTakeTurnsHoweverMuchOneHas() {
        List<Task> busy = List.of(put("a", null), put("a", null), put("a", null));
        Task quiet = put("b", null);

        assertThat(List.of(next(), next(), next(), next()))
                .containsExactly(busy.get(0), quiet, busy.get(1), busy.get(2));
        assertThat(queues.next()).isEmpty();
        assertThat(queues.isEmpty()).isTrue();
    }

    @Test
    void whatHasTheSameKeyWaitsUntilTheOneBeforeItIsDone() {
        Task first = put("a", "dev");
        Task second = put("a", "dev");
        Task other = put("a", "other");

        assertThat(next()).isSameAs(first);
        assertThat(next()).isSameAs(other);
        assertThat(queues.next()).isEmpty();

        assertThat(queues.done(first)).isFalse();
        assertThat(next()).isSameAs(second);
    }

    @Test
    void severalOfAKeyMayBeTakenTogetherAndTheNextWaitsUntilAllOfThemAreDone() {
        Task first = put("a", "dev");
        Task second = put("a", "dev");
        Task third = put("a", "dev");
        Task other = put("a", "other");

        assertThat(next()).isSameAs(first);
        assertThat(queues.behind(first)).contains(second);
        assertThat(queues.size()).isEqualTo(2);
        assertThat(next()).isSameAs(other);
        assertThat(queues.behind(other)).isEmpty();

        queues.done(first);
        assertThat(queues.next()).isEmpty();
        queues.done(second);
        assertThat(next()).isSameAs(third);
    }

    @Test
    void severalOfAKeyThatWereNotTriedStandInTheirOrderAgain() {
        Task first = put("a", "dev");
        Task second = put("a", "dev");
        Task third = put("a", "dev");
        next();
        queues.behind(first);
        queues.behind(second);

        queues.done(first);
        queues.back(third);
        assertThat(queues.next()).isEmpty();
        queues.back(second);

        assertThat(next()).isSameAs(second);
        assertThat(queues.behind(second)).contains(third);
        assertThat(queues.isEmpty()).isTrue();
    }

    @Test
    void whatWasNotTriedStandsFirstAgain() {
        Task first = put("a", "dev");
        Task second = put("a", "dev");
        Task loose = put("b", null);

        queues.back(next());
        assertThat(next()).isSameAs(loose);
        queues.back(loose);

        assertThat(queues.size()).isEqualTo(3);
        assertThat(queues.ids())
                .containsExactlyInAnyOrder(
                        first.delivery().id(),
                        second.delivery().id(),
                        loose.delivery().id());
        assertThat(next()).isSameAs(first);
    }

    @Test
    void aLaneHasABoundedShareOfMemoryAndOthersHaveTheirs() {
        for (int number = 0; number < LaneQueues.BOUND; number++) {
            put("a", null);
        }

        assertThat(queues.reserve("a", null, 10)).isFalse();
        assertThat(queues.reserve("b", null, 10)).isTrue();
        next();
        assertThat(queues.reserve("a", null, 10)).isTrue();
    }

    @Test
    void whatWouldOvertakeItsKeyInTheTableFindsNoRoom() {
        queues.table("a").leaves("dev");

        assertThat(queues.reserve("a", "dev", 10)).isFalse();
        assertThat(queues.reserve("a", "other", 10)).isTrue();
    }

    @Test
    void whatFoundNoRoomMakesTheNextOfItsKeyGoByTheTableToo() {
        MemoryBudget small = new MemoryBudget(TestSettings.with("memory-megabytes", 1));
        LaneQueues tight = new LaneQueues(small);
        KeysInTable table = tight.table("a");
        table.passed(Set.of(), table.look());
        assertThat(tight.reserve("a", "dev", 1 << 20)).isFalse();

        assertThat(tight.reserve("a", "dev", 10)).isFalse();
        assertThat(tight.reserve("a", "other", 10)).isTrue();
    }

    @Test
    void whatGoesBackToTheTableTakesAlongWhatStandsBehindIt() {
        Task first = put("a", "dev");
        Task second = put("a", "dev");
        Task third = put("a", "dev");
        assertThat(next()).isSameAs(first);

        assertThat(queues.stall(first)).containsExactly(second, third);
        queues.done(first);

        assertThat(queues.next()).isEmpty();
        assertThat(queues.reserve("a", "dev", 10))
                .as("its key is in the table now")
                .isFalse();
    }

    @Test
    void whatWasBeingCommittedWhileItsKeyWentBackFollowsIt() {
        Task first = put("a", "dev");
        next();
        Task coming = Tasks.of("a", "dev");
        assertThat(queues.reserve("a", "dev", coming.bytes())).isTrue();

        queues.stall(first);

        assertThat(queues.fill(coming)).isFalse();
        queues.done(first);
        assertThat(queues.isEmpty()).isTrue();
    }

    @Test
    void theEndOfAKeyIsToldIfThereIsMoreOfItInTheTable() {
        Task only = put("a", "dev");
        next();
        queues.table("a").leaves("dev");
        queues.table("a").arrived("dev");

        assertThat(queues.done(only)).isTrue();
    }

    @Test
    void lanesThatAreNoLongerThereAreEmptied() {
        Task gone = put("a", "dev");
        Task stays = put("b", "dev");

        assertThat(queues.removeAllBut(Set.of("b"))).containsExactly(gone);
        assertThat(next()).isSameAs(stays);
        assertThat(queues.next()).isEmpty();
    }

    @Test
    void afterGivingUpAllEveryKeyGoesByTheTable() {
        Task task = put("a", "dev");

        assertThat(queues.abandon()).containsExactly(task);
        assertThat(queues.reserve("a", "never-seen", 10)).isFalse();
    }

    @Test
    void lookingAtTheNextLeavesItThere() {
        assertThat(queues.peek()).isEmpty();
        Task ordered = put("a", "dev");
        assertThat(queues.peek()).containsSame(ordered);
        assertThat(next()).isSameAs(ordered);
        assertThat(queues.peek()).isEmpty();
    }

    /** Random use, as of many devices on two lanes: each key's deliveries leave in the order in which they came. */
    @ParameterizedTest
    @ValueSource(longs = {1, 2, 3, 4, 5, 6, 7, 8})
    void eachKeyKeepsItsOrderWhateverHappens(long seed) {
        Random random = new Random(seed);
        Map<String, List<Task>> came = new HashMap<>();
        Map<String, List<Task>> left = new HashMap<>();
        List<Task> inHand = new ArrayList<>();
        for (int step = 0; step < 5_000; step++) {
            switch (random.nextInt(4)) {
                case 0, 1 -> {
                    String lane = random.nextBoolean() ? "a" : "b";
                    Task task = Tasks.of(lane, "dev-" + random.nextInt(20));
                    if (queues.reserve(lane, task.orderKey(), task.bytes()) && queues.fill(task)) {
                        came.computeIfAbsent(lane + task.orderKey(), name -> new ArrayList<>())
                                .add(task);
                    }
                }
                case 2 -> queues.next().ifPresent(inHand::add);
                default -> {
                    if (!inHand.isEmpty()) {
                        Task task = inHand.remove(random.nextInt(inHand.size()));
                        if (random.nextInt(3) == 0) {
                            queues.back(task);
                        } else {
                            left.computeIfAbsent(task.lane() + task.orderKey(), name -> new ArrayList<>())
                                    .add(task);
                            queues.done(task);
                        }
                    }
                }
            }
            assertThat(inHand.stream().map(task -> task.lane() + task.orderKey()))
                    .doesNotHaveDuplicates();
        }
        while (!inHand.isEmpty() || !queues.isEmpty()) {
            Optional<Task> task = inHand.isEmpty() ? queues.next() : Optional.of(inHand.removeLast());
            task.ifPresent(one -> {
                left.computeIfAbsent(one.lane() + one.orderKey(), name -> new ArrayList<>())
                        .add(one);
                queues.done(one);
            });
        }

        assertThat(left).isEqualTo(came);
        assertThat(queues.ids()).isEmpty();
    }
}
