package org.holtra.service.introductions;

import static org.holtra.service.database.Columns.column;

import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.concurrent.CompletionException;
import org.holtra.service.cluster.ClusterEvent;
import org.holtra.service.cluster.ClusterEvents;
import org.holtra.service.database.JournalTransaction;
import org.holtra.service.journal.GroupCommit;
import org.springframework.stereotype.Component;

/** Writes how far introductions have come. What many write at once goes into one transaction: each would wait for the disk. */
@Component
class IntroductionWriter implements AutoCloseable {

    private static final int MOST_WAITING = 1_000;
    private static final int LARGEST_GROUP = 64;

    private final IntroductionMapper introductions;
    private final MadeThereMapper made;
    private final IntroductionRows rows;
    private final Committing committing;
    private final InstantSource clock;
    private final GroupCommit<Written, Boolean> writes =
            new GroupCommit<>("introductions", GroupCommit.Limits.of(MOST_WAITING, LARGEST_GROUP), this::write);

    /** How a group becomes durable, and other nodes hear of it. */
    @Component
    record Committing(JournalTransaction transaction, ClusterEvents cluster) {}

    /** How far one has come, and what was made there with that. */
    private record Written(Introduction one, List<String> made) {}

    /** Something that was made there. */
    private record Thing(Introduction of, String what) {}

    IntroductionWriter(
            IntroductionMapper introductions,
            MadeThereMapper made,
            IntroductionRows rows,
            Committing committing,
            InstantSource clock) {
        this.introductions = introductions;
        this.made = made;
        this.rows = rows;
        this.committing = committing;
        this.clock = clock;
    }

    /**
     * Returns once it is durable.
     *
     * @param things what was made there with that
     * @return false if the device was asked to be something else meanwhile
     */
    boolean write(Introduction one, List<String> things) {
        try {
            return writes.submit(new Written(one, things)).join();
        } catch (CompletionException e) {
            throw e.getCause() instanceof RuntimeException cause ? cause : e;
        }
    }

    private List<Boolean> write(List<Written> group) {
        return committing.transaction.execute(() -> {
            List<Boolean> all = new ArrayList<>(group.size());
            for (int from = 0; from < group.size(); from = all.size()) {
                all.addAll(writeTogether(group.subList(from, endOfDistinct(group, from))));
            }
            List<String> ended = group.stream()
                    .map(Written::one)
                    .filter(one -> one.isKnown() || one.state() == IntroductionState.REFUSED)
                    .map(IntroductionWriter::called)
                    .toList();
            if (!ended.isEmpty()) {
                committing.cluster.publish(ClusterEvent.Topic.INTRODUCTION, ended);
            }
            return all;
        });
    }

    private static String called(Introduction one) {
        return one.outlet() + " " + one.device();
    }

    /** Up to where no device stands twice: of two changes of a row one statement makes one only. */
    private static int endOfDistinct(List<Written> group, int from) {
        Set<String> seen = new HashSet<>();
        int end = from;
        while (end < group.size() && seen.add(called(group.get(end).one))) {
            end++;
        }
        return end;
    }

    private List<Boolean> writeTogether(List<Written> group) {
        List<IntroductionMapper.Row> changed =
                group.stream().map(written -> rows.row(written.one)).toList();
        Set<String> there = Set.copyOf(introductions.write(IntroductionColumns.of(changed)));
        List<Thing> things = group.stream()
                .filter(written -> there.contains(called(written.one)))
                .flatMap(written -> written.made.stream().map(what -> new Thing(written.one, what)))
                .toList();
        if (!things.isEmpty()) {
            made.made(
                    new MadeThereMapper.MadeColumns(
                            column(things, thing -> thing.of.outlet(), String[]::new),
                            column(things, thing -> thing.of.device(), String[]::new),
                            column(things, thing -> thing.what, String[]::new),
                            column(things, thing -> thing.of.there().name(), String[]::new),
                            column(things, thing -> thing.of.there().id(), String[]::new),
                            column(things, thing -> thing.of.asked().by(), String[]::new),
                            column(things, thing -> thing.of.progress().revision(), Integer[]::new)),
                    clock.instant());
        }
        return group.stream()
                .map(written -> there.contains(called(written.one)))
                .toList();
    }

    @Override
    public void close() {
        writes.close();
    }
}
