package org.holtra.service.dispatch;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import org.holtra.service.journal.Backlog;
import org.holtra.service.journal.entry.Delivery;

/**
 * Goes through what the table holds for one outlet: what has no order key by when it is due, and each ordered lane's keys
 * one after another, a part at each look. All but {@link #run} is guarded by the outlet's runner.
 */
final class TableLook {

    /** @param look names the look to the lane's {@link KeysInTable} */
    private record Step(String lane, String after, long look) {}

    /** What one look is to do. */
    record Plan(Backlog.Claim claim, Instant until, int wanted, Collection<String> closed, List<Step> steps) {}

    private record Seen(Step step, Backlog.Ordered ordered) {}

    /** @param next when what has no order key should be looked at again */
    record Found(List<Delivery> claimed, Instant next, List<Seen> seen) {}

    /** A pass through the order keys of a lane, from the first to the last. */
    private static final class Pass {
        private final long first;
        private final Set<String> left = new HashSet<>();
        private String after = "";
        private Instant due;

        private Pass(long first) {
            this.first = first;
        }
    }

    private static final long FROM_THE_BEGINNING_NANOS = 2_000_000_000;
    private static final Duration MARGIN = Duration.ofSeconds(1);

    private final String outlet;
    private volatile Instant since = Instant.EPOCH;
    private volatile long begun = System.nanoTime();
    private final Backlog backlog;
    private final Map<String, Pass> passes = new HashMap<>();

    TableLook(String outlet, Backlog backlog) {
        this.outlet = outlet;
        this.backlog = backlog;
    }

    Plan plan(UUID owner, Instant until, int wanted, OutletRunner.Lanes lanes, LaneQueues queues) {
        List<Step> steps = new ArrayList<>();
        for (String lane : lanes.ordered()) {
            long look = queues.table(lane).look();
            Pass pass = passes.computeIfAbsent(lane, name -> new Pass(look));
            steps.add(new Step(lane, pass.after, look));
        }
        return new Plan(new Backlog.Claim(owner, UUID.randomUUID()), until, wanted, lanes.closed(), steps);
    }

    /** If it fails, what it claimed until then is to be doubted. */
    Found run(Plan plan) {
        Instant from = since;
        Backlog.Room room = Backlog.Room.of(plan.wanted);
        List<Delivery> claimed =
                new ArrayList<>(backlog.claim(plan.claim, outlet, from, plan.until, room, plan.closed));
        room = room.without(claimed);
        boolean full = room.isUsedUp();
        goOn(claimed, full && plan.wanted > 1);
        boolean more = full || !from.equals(Instant.EPOCH);
        Instant due = more ? null : backlog.nextDue(outlet, plan.closed).orElse(null);
        List<Seen> seen = new ArrayList<>();
        for (Step step : plan.steps) {
            if (room.isUsedUp()) {
                break;
            }
            Backlog.Ordered ordered = backlog.claimOrdered(plan.claim, step.lane, step.after, plan.until, room);
            claimed.addAll(ordered.claimed());
            room = room.without(ordered.claimed());
            seen.add(new Seen(step, ordered));
        }
        more = more || room.isUsedUp();
        Instant next = due == null ? Instant.MAX : due;
        return new Found(claimed, more ? Instant.EPOCH : next, seen);
    }

    /**
     * What has been claimed leaves dead entries in the index until the table is vacuumed, and a look from the beginning
     * steps over all of them. So while there is more than is taken at a time, a look goes on a little before where the last
     * one ended; otherwise, and every so often, it begins anew.
     */
    private void goOn(List<Delivery> claimed, boolean full) {
        long now = System.nanoTime();
        if (!full || now - begun > FROM_THE_BEGINNING_NANOS) {
            begun = now;
            since = Instant.EPOCH;
        } else {
            since = claimed.getLast().owed().due().minus(MARGIN);
        }
    }

    private static Set<String> taken(Backlog.Ordered ordered) {
        Set<String> taken = ordered.claimed().stream()
                .map(delivery -> delivery.owed().orderKey())
                .collect(Collectors.toSet());
        taken.removeAll(ordered.waiting());
        return taken;
    }

    private static Instant earlier(Instant a, Instant b) {
        if (a == null || b == null) {
            return a == null ? b : a;
        }
        return a.isBefore(b) ? a : b;
    }

    /** Something may be due then, perhaps under keys that a pass under way has gone by. */
    void asked(Instant time) {
        passes.values().forEach(pass -> pass.due = earlier(pass.due, time));
    }

    /** Notes what a look found; says when the table should be looked at again. */
    Instant apply(Found found, LaneQueues queues) {
        Instant next = found.next;
        for (Seen seen : found.seen) {
            KeysInTable table = queues.table(seen.step.lane);
            table.taken(taken(seen.ordered), seen.step.look);
            Pass pass = passes.get(seen.step.lane);
            if (pass == null) {
                continue;
            }
            if (pass.left.size() <= KeysInTable.BOUND) {
                pass.left.addAll(seen.ordered.waiting());
            }
            pass.due = earlier(pass.due, seen.ordered.nextDue());
            pass.after = seen.ordered.last();
            if (pass.after == null) {
                table.passed(pass.left, pass.first);
                passes.remove(seen.step.lane);
            }
            next = earlier(next, pass.after == null ? pass.due : Instant.EPOCH);
        }
        return next;
    }
}
