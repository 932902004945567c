package org.holtra.service.dispatch;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.holtra.core.delivery.Batch;
import org.holtra.core.delivery.Fate;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.core.setup.Outlet;
import org.holtra.service.journal.Settlement;

/** Sends what one thread has in hand, and has what came of it written down. */
final class Sending {

    /**
     * What is sent by one thread.
     *
     * @param outlet as it is set up
     */
    record Handful(List<Task> tasks, SharedSink through, OutletHealth atStart, Outlet outlet) {}

    private final DispatchContext context;
    private final Settling settling;
    private final OutletStanding standing;
    private final UnknownDevices unknownDevices;

    Sending(DispatchContext context, Settling settling, OutletStanding standing) {
        this.unknownDevices = context.unknownDevices();
        this.context = context;
        this.settling = settling;
        this.standing = standing;
    }

    /**
     * Those that were not tried, since this node may have been given up meanwhile, or the outlet stopped.
     *
     * @param first nothing before them went back to the table: they are still the first of their order keys
     * @param following one before them of their order key, of the same handful, went back to the table, where they must follow
     */
    record Untried(List<Task> first, List<Task> following) {

        static final Untried NONE = new Untried(List.of(), List.of());

        static Untried of(List<Task> untried, List<Settling.Settled> settled) {
            if (untried.isEmpty()) {
                return NONE;
            }
            Set<Task.Order> postponed = settled.stream()
                    .filter(one -> one.settlement().fate() == Settlement.Kind.WAITING)
                    .flatMap(one -> one.task().order().stream())
                    .collect(Collectors.toSet());
            Map<Boolean, List<Task>> follows = untried.stream()
                    .collect(Collectors.partitioningBy(
                            task -> task.order().filter(postponed::contains).isPresent()));
            return new Untried(follows.get(false), follows.get(true));
        }

        boolean has(Task task) {
            return first.contains(task) || following.contains(task);
        }

        int size() {
            return first.size() + following.size();
        }
    }

    /** Makes the attempts, and returns once what became of them is written down where somebody waits for that. */
    Untried attempt(Handful handful) throws InterruptedException {
        Instant now = context.clock().instant();
        List<Task> free = new ArrayList<>();
        List<Task> untried = new ArrayList<>();
        List<Settling.Settled> settled = new ArrayList<>();
        List<Task> unknownThere = new ArrayList<>();
        // What lets one go may change before the next is looked at, which must not go past it.
        Set<Task.Order> stopped = new HashSet<>();
        for (Task task : handful.tasks) {
            Optional<Instant> heldUntil = standing.heldUntil(task, now);
            Optional<String> unknown = unknownDevices.whyNot(task, handful.outlet);
            int going = free.size();
            if (!stopped.isEmpty() && task.order().filter(stopped::contains).isPresent()
                    || !context.node().holds(task.owner())) {
                untried.add(task);
            } else if (heldUntil.isPresent()) {
                settled.add(new Settling.Settled(
                        task,
                        Settlement.released(task.delivery().owed(), heldUntil.get(), "its device is held here", now)));
            } else if (unknown.isPresent()) {
                unknownThere.add(task);
                settled.add(new Settling.Settled(
                        task,
                        Settlement.released(task.delivery().owed(), now.plus(Fate.INTRODUCED), unknown.get(), now)));
            } else {
                free.add(task);
            }
            if (free.size() == going) {
                task.order().ifPresent(stopped::add);
            }
        }
        if (!free.isEmpty()) {
            untried.addAll(send(free, handful, settled));
        }
        settling.settle(settled);
        if (unknownDevices.bringForwardKnown(unknownThere, handful.outlet.name())) {
            standing.look();
        }
        return Untried.of(untried, settled);
    }

    private List<Task> send(List<Task> free, Handful handful, List<Settling.Settled> settled) {
        Sink through = handful.through.sink();
        Batch batch = handful.outlet.manner().batch();
        if (batch != null) {
            return context.batches().attempt(free, through, handful.atStart, batch, new Batches.Ledger() {
                @Override
                public void concluded(Task task, Attempter.Result result) {
                    settled.add(weighed(task, result));
                }

                @Override
                public void tried(Task task, Settlement settlement) {
                    settling.note(task, settlement);
                }

                @Override
                public boolean goesOn() {
                    return context.node().holds(free.getFirst().owner());
                }
            });
        }
        for (Task task : free) {
            settled.add(weighed(task, context.attempter().attempt(task, through, handful.atStart)));
        }
        return List.of();
    }

    private Settling.Settled weighed(Task task, Attempter.Result result) {
        if (result.verdict() != null) {
            standing.weigh(result.verdict(), task, context.clock().instant());
        }
        return new Settling.Settled(task, result.settlement());
    }
}
