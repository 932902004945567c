package org.holtra.service.api;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.core.delivery.OutletHealth.State;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.service.balance.Balance;
import org.holtra.service.balance.BalanceSheet;
import org.holtra.service.balance.Counts;
import org.holtra.service.balance.Tally;
import org.holtra.service.balance.TallyRow;
import org.holtra.service.database.CachedValue;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.journal.LaneDebts;
import org.holtra.service.journal.entry.DeadGroup;
import org.holtra.service.journal.entry.LaneDebt;
import org.holtra.service.lookouts.Alarms;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/** Draws up the overview. */
@Component
class Overviews {

    private static final int MINUTES = 60;
    private static final Duration LATE = Duration.ofMinutes(1);
    private static final List<String> TROUBLES =
            List.of("stopped", "late", "dead", "waiting", "closed", "flowing", "quiet");

    private final LaneDebts debts;
    private final Counts counts;
    private final CachedValue<Balance> lately;
    private final Setups setups;
    private final Dispatcher dispatcher;
    private final LastErrors errors;
    private final Alarms alarms;
    private final InstantSource clock;

    Overviews(
            LaneDebts debts,
            Counts counts,
            BalanceSheet sheet,
            Setups setups,
            Dispatcher dispatcher,
            LastErrors errors,
            Alarms alarms,
            InstantSource clock) {
        this.alarms = alarms;
        this.debts = debts;
        this.counts = counts;
        this.lately = new CachedValue<>(() -> lastHour(sheet), System::nanoTime);
        this.setups = setups;
        this.dispatcher = dispatcher;
        this.errors = errors;
        this.clock = clock;
    }

    private Balance lastHour(BalanceSheet sheet) {
        Instant now = clock.instant();
        return sheet.between(now.minus(MINUTES, ChronoUnit.MINUTES), now);
    }

    Overview now() {
        Instant now = clock.instant();
        Setup setup = setups.current();
        LaneDebts.Counted counted = this.debts.counted();
        Map<String, LaneDebt> debts =
                counted.lanes().stream().collect(Collectors.toMap(LaneDebt::lane, debt -> debt, Overviews::together));
        List<DeadGroup> dead = this.debts.deadGroups();
        Map<String, Overview.Traffic> traffic = traffic(now);
        Map<String, Dispatcher.OutletState> outlets = dispatcher.states();
        List<Overview.LaneRow> rows = new ArrayList<>();
        for (Lane lane : setup.lanes().values()) {
            long deadOfLane = dead.stream()
                    .filter(group -> group.lane().equals(lane.name()))
                    .mapToLong(DeadGroup::count)
                    .sum();
            rows.add(row(
                    lane,
                    Optional.ofNullable(debts.get(lane.name())),
                    deadOfLane,
                    outlets.get(lane.outlet()).health(),
                    traffic.getOrDefault(lane.name(), noTraffic()),
                    now));
        }
        rows.sort(Comparator.<Overview.LaneRow>comparingInt(row -> TROUBLES.indexOf(row.trouble()))
                .thenComparing(row -> -row.owes())
                .thenComparing(Overview.LaneRow::lane));
        return new Overview(
                now,
                counted.at(),
                setup.revision(),
                lately.get(),
                dead.stream().mapToLong(DeadGroup::count).sum(),
                alarms.open(),
                rows);
    }

    private Overview.LaneRow row(
            Lane lane, Optional<LaneDebt> debt, long dead, OutletHealth health, Overview.Traffic traffic, Instant now) {
        long owes = debt.map(LaneDebt::waiting).orElse(0L);
        boolean closed = lane.closed() || health.state() == State.CLOSED;
        String trouble = closed ? "closed" : trouble(debt, dead, health, traffic, now);
        String reason = lane.closed()
                ? "a person closed the lane; it keeps what it takes"
                : health.flows() ? debt.map(LaneDebt::reason).orElse(null) : health.reason();
        return new Overview.LaneRow(
                lane.name(),
                List.copyOf(lane.inlets()),
                lane.outlet(),
                lane.closed() ? "closed" : "open",
                lane.pick() == null ? null : lane.pick().source(),
                lane.pick() == null ? Map.of() : setups.current().units(lane.pick()),
                trouble,
                health.state().word(),
                owes,
                dead,
                debt.map(LaneDebt::oldest).orElse(null),
                reason,
                health.flows() ? null : health.since(),
                health.flows() ? debt.map(LaneDebt::nextTry).orElse(null) : health.nextProbe(),
                lane.closed()
                        ? "Open the lane, and what it keeps leaves by itself."
                        : advice(trouble, lane.outlet(), health),
                errors.of(lane.name()),
                traffic);
    }

    private static String trouble(
            Optional<LaneDebt> debt, long dead, OutletHealth health, Overview.Traffic traffic, Instant now) {
        if (health.state() == State.BLOCKED || health.state() == State.BROKEN) {
            return "stopped";
        }
        if (debt.isPresent() && debt.get().oldest().plus(LATE).isBefore(now)) {
            return "late";
        }
        if (dead > 0) {
            return "dead";
        }
        if (debt.isPresent()) {
            return "waiting";
        }
        for (long taken : traffic.taken()) {
            if (taken > 0) {
                return "flowing";
            }
        }
        return "quiet";
    }

    private static String advice(String trouble, String outlet, OutletHealth health) {
        return switch (trouble) {
            case "stopped" ->
                health.state() == State.BLOCKED
                        ? "Save a working credential for outlet " + outlet + "; what waits then leaves by itself."
                        : "See whether the destination of outlet " + outlet
                                + " runs and can be reached. It is probed with one delivery; what waits leaves by itself.";
            case "late" -> "Open one of the waiting messages: its attempts tell what the destination answers.";
            case "closed" -> "Open outlet " + outlet + ", and what waits leaves by itself.";
            case "dead" -> "Open the dead letters: mend the cause, then retry or drop them.";
            default -> null;
        };
    }

    private static LaneDebt together(LaneDebt a, LaneDebt b) {
        LaneDebt older = a.oldest().isBefore(b.oldest()) ? a : b;
        return new LaneDebt(
                a.lane(), older.outlet(), a.waiting() + b.waiting(), older.oldest(), older.reason(), older.nextTry());
    }

    private Map<String, Overview.Traffic> traffic(Instant now) {
        Instant first = now.truncatedTo(ChronoUnit.MINUTES).minus(MINUTES - 1L, ChronoUnit.MINUTES);
        Map<String, Overview.Traffic> traffic = new HashMap<>();
        for (TallyRow row : counts.between(first, now)) {
            Overview.Traffic lane = traffic.computeIfAbsent(row.name(), name -> noTraffic());
            int minute = (int) Math.min(MINUTES - 1L, ChronoUnit.MINUTES.between(first, row.minute()));
            Tally.what(row.what()).ifPresent(what -> {
                switch (what) {
                    case TAKEN -> lane.taken()[minute] += row.count();
                    case DELIVERED -> lane.delivered()[minute] += row.count();
                    case FAILED, DEAD -> lane.failed()[minute] += row.count();
                    case ACKNOWLEDGED, SENT, BYTES -> {}
                }
            });
        }
        return traffic;
    }

    private static Overview.Traffic noTraffic() {
        return new Overview.Traffic(new long[MINUTES], new long[MINUTES], new long[MINUTES]);
    }
}
