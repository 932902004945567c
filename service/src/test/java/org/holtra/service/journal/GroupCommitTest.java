package org.holtra.service.journal;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.sql.SQLException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;

class GroupCommitTest {

    private final List<List<String>> groups = new CopyOnWriteArrayList<>();
    private final CountDownLatch open = new CountDownLatch(1);

    /** Holds the first group back until it is let go, so that what comes meanwhile makes the second. */
    private List<Integer> commit(List<String> group) {
        groups.add(List.copyOf(group));
        if (groups.size() == 1) {
            try {
                assertThat(open.await(10, TimeUnit.SECONDS)).isTrue();
            } catch (InterruptedException e) {
                throw new IllegalStateException(e);
            }
        }
        if (group.contains("bad")) {
            throw new IllegalStateException(new SQLException("too long", "22001"));
        }
        if (group.contains("away")) {
            throw new IllegalStateException(new SQLException("gone", "08006"));
        }
        return group.stream().map(String::length).toList();
    }

    private static void awaitFirst(List<List<String>> groups) {
        while (groups.isEmpty()) {
            Thread.onSpinWait();
        }
    }

    @Test
    void whatQueuesUpDuringACommitGoesIntoTheNext() throws Exception {
        try (GroupCommit<String, Integer> commits =
                new GroupCommit<>("test", GroupCommit.Limits.of(100, 10), this::commit)) {
            CompletableFuture<Integer> first = commits.submit("a");
            awaitFirst(groups);
            List<CompletableFuture<Integer>> rest = new ArrayList<>();
            for (int i = 0; i < 12; i++) {
                rest.add(commits.submit("b" + i));
            }
            assertThat(first).isNotDone();
            open.countDown();
            rest.getLast().get(10, TimeUnit.SECONDS);
        }
        assertThat(groups).extracting(List::size).containsExactly(1, 10, 2);
    }

    @Test
    void aGroupOfLargeItemsIsSmaller() throws Exception {
        GroupCommit.Limits<String> limits = new GroupCommit.Limits<>(100, 10, item -> 3_000_000);
        try (GroupCommit<String, Integer> commits = new GroupCommit<>("test", limits, this::commit)) {
            commits.submit("a");
            awaitFirst(groups);
            List<CompletableFuture<Integer>> rest = new ArrayList<>();
            for (int i = 0; i < 5; i++) {
                rest.add(commits.submit("b" + i));
            }
            open.countDown();
            rest.getLast().get(10, TimeUnit.SECONDS);
        }
        assertThat(groups).extracting(List::size).containsExactly(1, 3, 2);
    }

    @Test
    void whatQueuedUpBehindAFailureOfTheDatabaseFailsWithItThoughTheDatabaseIsBackAtOnce() throws Exception {
        List<CompletableFuture<Integer>> behind = new ArrayList<>();
        try (GroupCommit<String, Integer> commits =
                new GroupCommit<>("test", GroupCommit.Limits.of(100, 2), this::commit)) {
            CompletableFuture<Integer> first = commits.submit("away");
            awaitFirst(groups);
            for (int i = 0; i < 5; i++) {
                behind.add(commits.submit("b" + i));
            }
            // On the committing thread, before anything else is committed: it comes behind, too.
            first.whenComplete((done, failure) -> behind.add(commits.submit("told")));
            open.countDown();
            assertThatThrownBy(() -> first.get(10, TimeUnit.SECONDS)).isInstanceOf(ExecutionException.class);
            for (CompletableFuture<Integer> one : List.copyOf(behind)) {
                assertThatThrownBy(() -> one.get(10, TimeUnit.SECONDS))
                        .hasCauseInstanceOf(JournalUnavailable.class)
                        .matches(failure -> !Journal.isUncertain(failure.getCause()));
            }
            assertThat(commits.submit("later").get(10, TimeUnit.SECONDS)).isEqualTo(5);
        }
        assertThat(groups).containsExactly(List.of("away"), List.of("later"));
    }

    @Test
    void aGroupIsHeldOpenUntilSomebodyWaitsForIt() throws Exception {
        open.countDown();
        try (GroupCommit<String, Integer> commits =
                new GroupCommit<>("test", GroupCommit.Limits.of(100, 50), Duration.ofMinutes(5), this::commit)) {
            CompletableFuture<Integer> first = commits.submitPatiently("a", false);
            CompletableFuture<Integer> second = commits.submitPatiently("b", false);
            assertThat(first).isNotDone();

            commits.submitPatiently("c", true).get(10, TimeUnit.SECONDS);

            assertThat(List.of(first, second)).allMatch(CompletableFuture::isDone);
        }
        assertThat(groups).containsExactly(List.of("a", "b", "c"));
    }

    @Test
    void aGroupIsHeldOpenForNoLongerThanIsSaid() throws Exception {
        open.countDown();
        try (GroupCommit<String, Integer> commits =
                new GroupCommit<>("test", GroupCommit.Limits.of(100, 50), Duration.ofMillis(20), this::commit)) {
            assertThat(commits.submitPatiently("a", false).get(10, TimeUnit.SECONDS))
                    .isEqualTo(1);
        }
    }

    @Test
    void aBadItemHarmsItselfOnly() throws Exception {
        try (GroupCommit<String, Integer> commits =
                new GroupCommit<>("test", GroupCommit.Limits.of(100, 10), this::commit)) {
            commits.submit("a");
            awaitFirst(groups);
            CompletableFuture<Integer> good = commits.submit("good");
            CompletableFuture<Integer> bad = commits.submit("bad");
            CompletableFuture<Integer> alsoGood = commits.submit("also good");
            open.countDown();

            good.get(10, TimeUnit.SECONDS);
            alsoGood.get(10, TimeUnit.SECONDS);
            assertThatThrownBy(bad::get).isInstanceOf(ExecutionException.class);
        }
    }

    @Test
    void ifTheDatabaseIsAwayTheWholeGroupFails() {
        try (GroupCommit<String, Integer> commits =
                new GroupCommit<>("test", GroupCommit.Limits.of(100, 10), this::commit)) {
            commits.submit("a");
            awaitFirst(groups);
            CompletableFuture<Integer> one = commits.submit("away");
            CompletableFuture<Integer> other = commits.submit("other");
            open.countDown();

            assertThatThrownBy(one::get).isInstanceOf(ExecutionException.class);
            assertThatThrownBy(other::get).isInstanceOf(ExecutionException.class);
        }
    }

    @Test
    void whenTooMuchWaitsTheNextIsRefusedAtOnce() {
        try (GroupCommit<String, Integer> commits =
                new GroupCommit<>("test", GroupCommit.Limits.of(2, 1), this::commit)) {
            commits.submit("a");
            awaitFirst(groups);
            commits.submit("b");
            commits.submit("c");
            assertThatThrownBy(() -> commits.submit("d")).isInstanceOf(JournalUnavailable.class);
            open.countDown();
        }
    }

    @Test
    void closingCommitsWhatWaits() {
        GroupCommit<String, Integer> commits = new GroupCommit<>("test", GroupCommit.Limits.of(100, 10), this::commit);
        commits.submit("a");
        awaitFirst(groups);
        CompletableFuture<Integer> last = commits.submit("b");
        open.countDown();
        commits.close();

        assertThat(last).isCompleted();
        assertThatThrownBy(() -> commits.submit("c")).isInstanceOf(JournalUnavailable.class);
    }
}
