package org.holtra.service.dispatch;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.holtra.core.delivery.Batch;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.service.journal.Settlement;

/** Sends what one thread has in hand, and has what came of it written down. */
final class Sending {

    /**
     * What is sent by one thread.
     *
     * @param batch null if each goes by itself
     */
    record Handful(List<Job> jobs, SharedChannel through, OutletHealth atStart, Batch batch) {}

    private final Workshop workshop;
    private final Settling settling;
    private final OutletStanding standing;

    Sending(Workshop workshop, Settling settling, OutletStanding standing) {
        this.workshop = workshop;
        this.settling = settling;
        this.standing = standing;
    }

    /** Gives those that were not tried, since this node may have been given up meanwhile, or the outlet stopped. */
    List<Job> attempt(Handful handful) throws InterruptedException {
        Instant now = workshop.clock().instant();
        List<Job> free = new ArrayList<>();
        List<Job> untried = new ArrayList<>();
        List<Settling.Settled> settled = new ArrayList<>();
        for (Job job : handful.jobs) {
            Optional<Instant> heldUntil = standing.heldUntil(job, now);
            if (!workshop.node().holds(job.owner())) {
                untried.add(job);
            } else if (heldUntil.isPresent()) {
                settled.add(new Settling.Settled(
                        job,
                        Settlement.released(job.delivery().owed(), heldUntil.get(), "its device is held here", now)));
            } else {
                free.add(job);
            }
        }
        if (!free.isEmpty()) {
            untried.addAll(send(free, handful, settled));
        }
        settling.settle(settled);
        return untried;
    }

    private List<Job> send(List<Job> free, Handful handful, List<Settling.Settled> settled) {
        Channel through = handful.through.channel();
        if (handful.batch != null) {
            return workshop.batches().attempt(free, through, handful.atStart, handful.batch, new Batches.Ledger() {
                @Override
                public void concluded(Job job, Attempter.Result result) {
                    settled.add(weighed(job, result));
                }

                @Override
                public void tried(Job job, Settlement settlement) {
                    settling.note(job, settlement);
                }

                @Override
                public boolean goesOn() {
                    return workshop.node().holds(free.getFirst().owner());
                }
            });
        }
        for (Job job : free) {
            settled.add(weighed(job, workshop.attempter().attempt(job, through, handful.atStart)));
        }
        return List.of();
    }

    private Settling.Settled weighed(Job job, Attempter.Result result) {
        if (result.verdict() != null) {
            standing.weigh(result.verdict(), job, workshop.clock().instant());
        }
        return new Settling.Settled(job, result.settlement());
    }
}
