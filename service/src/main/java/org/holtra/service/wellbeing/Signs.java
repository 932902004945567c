package org.holtra.service.wellbeing;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.journal.LaneDebt;
import org.holtra.service.journal.Records;
import org.holtra.service.journal.SpoolReports;
import org.holtra.service.journal.Tally;
import org.holtra.service.journal.TallyRow;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/** Looks for what is wrong with Holtra itself: by usual bounds, in force from the start. */
@Component
class Signs {

    /** A pause or a broken connection of less is no news. */
    private static final Duration STOPPED = Duration.ofMinutes(1);

    private static final Duration OLD_BACKLOG = Duration.ofMinutes(15);
    private static final long DISK_LOW = 1L << 30;
    private static final long DEAD_IN_HOUR = 100;
    private static final Duration HABIT_FROM = Duration.ofHours(24);
    private static final int HABIT_NEEDED = 30;
    private static final Duration LEAST_SILENCE = Duration.ofMinutes(10);

    private final Setups setups;
    private final Dispatcher dispatcher;
    private final Records records;
    private final SpoolReports spools;

    Signs(Setups setups, Dispatcher dispatcher, Records records, SpoolReports spools) {
        this.setups = setups;
        this.dispatcher = dispatcher;
        this.records = records;
        this.spools = spools;
    }

    List<Trouble> all(Instant now) {
        Setup setup = setups.current();
        List<Trouble> all = new ArrayList<>();
        outlets(setup, now, all);
        backlogs(setup, now, all);
        spools(now, all);
        List<TallyRow> day = records.tallies(now.minus(HABIT_FROM), now.plus(STOPPED));
        inlets(setup, day, now, all);
        dead(day, now, all);
        return all;
    }

    private void outlets(Setup setup, Instant now, List<Trouble> all) {
        dispatcher.states().values().stream()
                .filter(outlet -> setup.outlets().containsKey(outlet.name()))
                .filter(outlet -> tells(outlet.health(), now))
                .forEach(outlet -> all.add(new Trouble(
                        "outlet",
                        outlet.name(),
                        outlet.health().since(),
                        "outlet " + outlet.name() + " is "
                                + outlet.health().state().name().toLowerCase(Locale.ROOT) + ": "
                                + outlet.health().reason())));
    }

    private static boolean tells(OutletHealth health, Instant now) {
        return switch (health.state()) {
            case FLOWING, CLOSED -> false;
            case BLOCKED -> true;
            case BROKEN, PAUSED -> health.since().plus(STOPPED).isBefore(now);
        };
    }

    private void backlogs(Setup setup, Instant now, List<Trouble> all) {
        for (LaneDebt debt : records.debts()) {
            Lane lane = setup.lanes().get(debt.lane());
            boolean wanted = lane != null
                    && !lane.closed()
                    && !setup.outlets().get(lane.outlet()).closed();
            if (wanted && debt.oldest().plus(OLD_BACKLOG).isBefore(now)) {
                all.add(new Trouble(
                        "backlog",
                        debt.lane(),
                        now,
                        "lane " + debt.lane() + " owes " + debt.waiting() + " deliveries, the oldest for "
                                + minutes(debt.oldest(), now)
                                + (debt.reason() == null ? "" : ": " + debt.reason())));
            }
        }
    }

    private void spools(Instant now, List<Trouble> all) {
        for (SpoolReports.Report spool : spools.all()) {
            if (spool.trouble() != null) {
                all.add(new Trouble("spool", spool.node(), now, "node " + spool.node() + ": " + spool.trouble()));
            } else if (spool.messages() > 0 && !spool.here()) {
                all.add(new Trouble(
                        "spool",
                        spool.node(),
                        now,
                        spool.messages() + " messages are spooled on node " + spool.node()
                                + ", which is gone; they are journaled when it starts again on its disk"));
            } else if (spool.most() > 0 && spool.bytes() > spool.most() / 2) {
                all.add(new Trouble(
                        "spool",
                        spool.node(),
                        now,
                        "the spool of node " + spool.node() + " is " + 100 * spool.bytes() / spool.most()
                                + " per cent full"));
            }
            if (spool.here() && spool.diskFree() < DISK_LOW) {
                all.add(new Trouble(
                        "disk",
                        spool.node(),
                        now,
                        "node " + spool.node() + " has " + (spool.diskFree() >> 20) + " MB of disk left"));
            }
        }
    }

    /** An inlet that has been unheard for three times its second longest pause of the last day. */
    private void inlets(Setup setup, List<TallyRow> day, Instant now, List<Trouble> all) {
        Map<String, List<Instant>> heard = new TreeMap<>();
        day.stream()
                .filter(row -> row.what().equals(Tally.What.ACKNOWLEDGED.name()))
                .forEach(row -> heard.computeIfAbsent(row.name(), name -> new ArrayList<>())
                        .add(row.minute()));
        for (Inlet inlet : setup.inlets().values()) {
            List<Instant> minutes = heard.getOrDefault(inlet.name(), List.of());
            if (inlet.closed() || minutes.size() < HABIT_NEEDED) {
                continue;
            }
            Duration patience = patience(minutes);
            Instant last = minutes.getLast();
            if (last.plus(patience).isBefore(now)) {
                all.add(new Trouble(
                        "inlet",
                        inlet.name(),
                        last,
                        "inlet " + inlet.name() + " has been unheard for " + minutes(last, now)
                                + ", longer than is its habit"));
            }
        }
    }

    private static Duration patience(List<Instant> minutes) {
        List<Duration> pauses = new ArrayList<>();
        for (int i = 1; i < minutes.size(); i++) {
            pauses.add(Duration.between(minutes.get(i - 1), minutes.get(i)));
        }
        pauses.sort(Comparator.reverseOrder());
        Duration habit = pauses.get(Math.min(1, pauses.size() - 1)).multipliedBy(3);
        return habit.compareTo(LEAST_SILENCE) < 0 ? LEAST_SILENCE : habit;
    }

    private static void dead(List<TallyRow> day, Instant now, List<Trouble> all) {
        Instant hour = now.minus(Duration.ofHours(1));
        Map<String, Long> byLane = new TreeMap<>();
        day.stream()
                .filter(row -> row.what().equals(Tally.What.DEAD.name())
                        && row.minute().isAfter(hour))
                .forEach(row -> byLane.merge(row.name(), row.count(), Long::sum));
        byLane.forEach((lane, count) -> {
            if (count >= DEAD_IN_HOUR) {
                all.add(new Trouble(
                        "dead", lane, now, count + " deliveries of lane " + lane + " died within the last hour"));
            }
        });
    }

    private static String minutes(Instant since, Instant now) {
        long minutes = Duration.between(since, now).toMinutes();
        return minutes < 120 ? minutes + " min" : minutes / 60 + " h";
    }
}
