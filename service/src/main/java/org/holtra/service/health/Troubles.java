package org.holtra.service.health;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.balance.SpoolReports;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.history.Records;
import org.holtra.service.intake.Sources;
import org.holtra.service.introductions.Introduction;
import org.holtra.service.introductions.IntroductionState;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.journal.LaneDebts;
import org.holtra.service.journal.entry.LaneDebt;
import org.holtra.service.refusals.Refusals;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/** Looks for what is wrong with Holtra itself: by usual bounds, active from the start. */
@Component
class Troubles {

    /** A pause or a broken connection of less is no news. */
    private static final Duration STOPPED = Duration.ofMinutes(1);

    private static final Duration OLD_BACKLOG = Duration.ofMinutes(15);
    /** On a busy machine a message may wait a little for its codec. */
    private static final Duration DEFERRED = Duration.ofSeconds(15);

    private static final int DEFERRED_COUNTED = 10_000;
    private static final long DISK_LOW = 1L << 30;
    private static final int HEAP_PERCENT = 85;
    private static final long DEAD_IN_HOUR = 100;
    private static final int HABIT_NEEDED = 30;
    private static final Duration LEAST_SILENCE = Duration.ofMinutes(10);
    private static final Duration ONLY_REFUSED = Duration.ofMinutes(10);
    /** Whoever was refused and has not come again since has given up, or was a stranger. */
    private static final Duration REFUSALS_FORGOTTEN = Duration.ofHours(2);

    private final Setups setups;
    private final Sources sources;
    private final Dispatcher dispatcher;
    private final Past past;
    private final SpoolReports spools;

    /** What is kept of what came and what died. */
    @Component
    record Past(
            Records records,
            LaneDebts debts,
            LastDay lastDay,
            Refusals refusals,
            Introductions introductions,
            CredentialTroubles credentials) {}

    Troubles(Setups setups, Sources sources, Dispatcher dispatcher, Past past, SpoolReports spools) {
        this.sources = sources;
        this.setups = setups;
        this.dispatcher = dispatcher;
        this.past = past;
        this.spools = spools;
    }

    List<Trouble> all(Instant now) {
        Setup setup = setups.current();
        List<Trouble> all = new ArrayList<>();
        setups.uncompiled().ifPresent(one -> all.add(new Trouble("setup", "" + one.revision(), now, one.text())));
        sources.broken()
                .forEach((name, why) ->
                        all.add(new Trouble("inlet", name, now, "inlet " + name + " cannot be opened: " + why)));
        deferred(now, all);
        outlets(setup, now, all);
        introductions(setup, now, all);
        all.addAll(past.credentials.all(setup, now));
        backlogs(setup, now, all);
        spools(now, all);
        past.lastDay.read(now);
        inlets(setup, now, all);
        refusals(setup, now, all);
        dead(now, all);
        return all;
    }

    /** Codecs that rest, or cannot be run: what they should have read waits. */
    private void deferred(Instant now, List<Trouble> all) {
        List<Records.Deferred> reasons = past.records.deferredReasons(DEFERRED_COUNTED);
        long messages = reasons.stream().mapToLong(Records.Deferred::messages).sum();
        Optional<Instant> oldest =
                reasons.stream().map(Records.Deferred::oldest).min(Comparator.naturalOrder());
        oldest.filter(first -> first.plus(DEFERRED).isBefore(now))
                .ifPresent(first -> all.add(new Trouble(
                        "codec",
                        "messages",
                        first,
                        (messages >= DEFERRED_COUNTED ? "more than " : "") + messages
                                + (messages == 1 ? " message waits" : " messages wait") + " to be read, the oldest for "
                                + minutes(first, now) + ": "
                                + reasons.stream()
                                        .map(Records.Deferred::reason)
                                        .limit(3)
                                        .collect(Collectors.joining("; ")))));
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
                                + outlet.health().state().word() + ": "
                                + outlet.health().reason())));
    }

    private static boolean tells(OutletHealth health, Instant now) {
        return switch (health.state()) {
            case FLOWING, CLOSED -> false;
            case BLOCKED -> true;
            case BROKEN, PAUSED -> health.since().plus(STOPPED).isBefore(now);
        };
    }

    /** Devices whose messages wait since the destination does not take the devices. */
    private void introductions(Setup setup, Instant now, List<Trouble> all) {
        for (Outlet outlet : setup.outlets().values()) {
            List<Introduction> stuck = outlet.recipe() == null
                    ? List.of()
                    : past.introductions.stuck(outlet.name()).stream()
                            .filter(one -> one.state() == IntroductionState.REFUSED
                                    || one.progress().since().plus(STOPPED).isBefore(now))
                            .toList();
            if (!stuck.isEmpty()) {
                Introduction first = stuck.getFirst();
                all.add(new Trouble(
                        "introduction",
                        outlet.name(),
                        first.progress().since(),
                        stuck.size() + (stuck.size() == 1 ? " device is" : " devices are")
                                + " not introduced at outlet " + outlet.name()
                                + (owes(outlet) ? ", and deliveries wait: " : ": ") + first.device() + ": "
                                + first.refusal().reason()));
            }
        }
    }

    private boolean owes(Outlet outlet) {
        return past.debts.debts().stream().anyMatch(debt -> debt.outlet().equals(outlet.name()));
    }

    private void backlogs(Setup setup, Instant now, List<Trouble> all) {
        for (LaneDebt debt : past.debts.debts()) {
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
            if (spool.here() && spool.heapPercent() >= HEAP_PERCENT) {
                all.add(new Trouble(
                        "memory",
                        spool.node(),
                        now,
                        "what node " + spool.node() + " keeps takes " + spool.heapPercent()
                                + " per cent of its heap; it becomes slow, and is started again when nothing is left."
                                + " Give it a larger heap (HOLTRA_HEAP)"));
            }
        }
    }

    /** An inlet that has been unheard for three times its second longest pause of the last day. */
    private void inlets(Setup setup, Instant now, List<Trouble> all) {
        for (Inlet inlet : setup.inlets().values()) {
            List<Instant> minutes = past.lastDay.heard(inlet.name());
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

    /** An inlet whose senders have been refused for ten minutes or more, and that has taken nothing since. */
    private void refusals(Setup setup, Instant now, List<Trouble> all) {
        Map<String, List<Refusals.Count>> byInlet =
                past.refusals.counts().stream().collect(Collectors.groupingBy(Refusals.Count::inlet));
        for (Inlet inlet : setup.inlets().values()) {
            List<Refusals.Count> slips = byInlet.getOrDefault(inlet.name(), List.of());
            List<Instant> minutes = past.lastDay.heard(inlet.name());
            Instant heard = minutes.isEmpty() ? Instant.EPOCH : minutes.getLast();
            if (slips.isEmpty() || inlet.closed()) {
                continue;
            }
            Refusals.Count latest = slips.getFirst();
            Instant since = slips.stream()
                    .map(Refusals.Count::since)
                    .min(Comparator.naturalOrder())
                    .get();
            Instant begun = since.isAfter(heard) ? since : heard;
            if (Duration.between(begun, latest.last()).compareTo(ONLY_REFUSED) >= 0
                    && latest.last().plus(REFUSALS_FORGOTTEN).isAfter(now)) {
                all.add(new Trouble(
                        "refusals",
                        inlet.name(),
                        begun,
                        "inlet " + inlet.name() + " has refused every call for " + minutes(begun, now)
                                + ", the last for: " + latest.slip()
                                + "; its page shows what its senders do wrong"));
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

    private void dead(Instant now, List<Trouble> all) {
        past.lastDay.dead().forEach((lane, count) -> {
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
