package org.holtra.service.journal;

import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import org.holtra.service.database.CachedValue;
import org.holtra.service.journal.entry.DeadGroup;
import org.holtra.service.journal.entry.LaneDebt;
import org.holtra.service.journal.sql.LaneDebtMapper;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** What lanes owe their outlets, and what becomes of it when a lane is changed. */
@Component
public class LaneDebts {

    private final LaneDebtMapper mapper;
    private final InstantSource clock;
    private final CachedValue<Counted> debts;

    /**
     * What lanes owe.
     *
     * @param at when that was looked up: some seconds ago where looking takes long
     */
    public record Counted(Instant at, List<LaneDebt> lanes) {

        /** Of all lanes. */
        public long waiting() {
            return lanes.stream().mapToLong(LaneDebt::waiting).sum();
        }
    }

    LaneDebts(LaneDebtMapper mapper, InstantSource clock) {
        this.mapper = mapper;
        this.clock = clock;
        this.debts = new CachedValue<>(() -> new Counted(clock.instant(), debtsNow()), System::nanoTime);
    }

    public Counted counted() {
        return debts.get();
    }

    /** The same as {@link #counted}, where some seconds do not matter. */
    public List<LaneDebt> debts() {
        return counted().lanes();
    }

    /** What lanes owe at this moment. */
    public List<LaneDebt> debtsNow() {
        return mapper.debts();
    }

    /** What a lane owes is given up later by as long as it was closed. */
    public void prolong(String lane, Instant since, Instant now) {
        mapper.prolong(lane, since, now);
    }

    /** From now on what a lane owes keeps the order of devices, or none. */
    public void order(String lane, boolean ordered) {
        mapper.order(lane, ordered);
    }

    public long countOf(String lane) {
        return mapper.countOfLane(lane);
    }

    @Transactional
    public int drop(String lane, String reason) {
        return mapper.dropLane(lane, clock.instant(), reason);
    }

    @Transactional
    public int reaim(String lane, String outlet) {
        return mapper.reaimLane(lane, outlet, clock.instant());
    }

    /** Dead letters by lane, outlet and cause, the largest group first. */
    public List<DeadGroup> deadGroups() {
        return mapper.groups();
    }

    /** Called every so often: keeps the count of what waits short. */
    public void addUp() {
        mapper.addUpBacklog();
    }
}
