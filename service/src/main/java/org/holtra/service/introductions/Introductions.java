package org.holtra.service.introductions;

import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Predicate;
import org.holtra.core.expression.Scope;
import org.holtra.core.introduction.StepOutcome.Why;
import org.holtra.service.cluster.ClusterEvent;
import org.holtra.service.cluster.ClusterEvents;
import org.holtra.service.database.JournalTransaction;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/**
 * How devices stand at the outlets whose destinations must know them: in the database, and in the memory of every node, since
 * each delivery is asked about.
 */
@Component
public class Introductions {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final TypeReference<List<String>> DIFFERENCES = new TypeReference<>() {};

    private record Key(String outlet, String device) {}

    /** Where they are kept. */
    @Component
    record Tables(
            IntroductionMapper introductions,
            MadeThereMapper made,
            IntroductionRows rows,
            IntroductionWriter writer,
            JournalTransaction transaction) {}

    private final Tables tables;
    private final ClusterEvents cluster;
    private final ApplicationEventPublisher events;
    private final InstantSource clock;
    private final Map<Key, Introduction> all = new ConcurrentHashMap<>();

    Introductions(Tables tables, ClusterEvents cluster, ApplicationEventPublisher events, InstantSource clock) {
        this.tables = tables;
        this.cluster = cluster;
        this.events = events;
        this.clock = clock;
    }

    public void load() {
        Map<Key, Introduction> there = new LinkedHashMap<>();
        for (IntroductionMapper.Row row : tables.introductions.all()) {
            there.put(new Key(row.outlet(), row.device()), tables.rows.introduction(row));
        }
        all.keySet().retainAll(there.keySet());
        there.values().forEach(this::remember);
        there.values().stream()
                .filter(Introduction::isKnown)
                .map(Introduction::outlet)
                .distinct()
                .forEach(outlet -> events.publishEvent(new DeviceKnown(
                        outlet,
                        there.values().stream()
                                .filter(one -> one.isKnown() && one.outlet().equals(outlet))
                                .map(Introduction::device)
                                .toList())));
    }

    /** Another node introduces devices, or asked for it. */
    @EventListener
    void on(ClusterEvent event) {
        if (!event.is(ClusterEvent.Topic.INTRODUCTION)) {
            return;
        }
        if (event.name().isEmpty()) {
            load();
            return;
        }
        String[] name = event.name().split(" ", 2);
        if (name.length == 2 && !name[1].isEmpty()) {
            readAgain(name[0], List.of(name[1]));
        }
    }

    private List<Introduction> readAgain(String outlet, Collection<String> devices) {
        List<Introduction> read = tables.introductions.find(outlet, devices.toArray(String[]::new)).stream()
                .map(tables.rows::introduction)
                .toList();
        List<String> there = read.stream().map(Introduction::device).toList();
        devices.stream()
                .filter(device -> !there.contains(device))
                .forEach(device -> all.remove(new Key(outlet, device)));
        read.forEach(this::remember);
        List<String> known = read.stream()
                .filter(Introduction::isKnown)
                .map(Introduction::device)
                .toList();
        if (!known.isEmpty()) {
            events.publishEvent(new DeviceKnown(outlet, known));
        }
        return read;
    }

    private void remember(Introduction one) {
        all.merge(
                new Key(one.outlet(), one.device()),
                one,
                (before, now) -> isNewer(now.progress(), before.progress()) ? now : before);
    }

    /** What was read before another wrote must not undo that. */
    private static boolean isNewer(Introduction.Progress now, Introduction.Progress before) {
        return now.version() > before.version()
                || now.version() == before.version() && !now.since().isBefore(before.since());
    }

    private void told(String outlet, Collection<String> devices) {
        cluster.publish(
                ClusterEvent.Topic.INTRODUCTION,
                devices.stream().map(device -> outlet + " " + device).toList());
    }

    /** Empty if nobody asked for it. */
    public Optional<Introduction> find(String outlet, String device) {
        return Optional.ofNullable(all.get(new Key(outlet, device)));
    }

    /** As it is in the database. */
    public Optional<Introduction> look(String outlet, String device) {
        return readAgain(outlet, List.of(device)).stream().findFirst();
    }

    /** What the device is called at an outlet; empty if it is not known there. */
    public Optional<Introduction> known(String outlet, String device) {
        return device == null ? Optional.empty() : find(outlet, device).filter(Introduction::isKnown);
    }

    /** What the shapes of lanes to an outlet see: of a device that is known there, also what it is called there. */
    public Scope seen(Scope scope, String outlet) {
        return known(outlet, (String) scope.device().get("key"))
                .map(known -> known.there().in(scope))
                .orElse(scope);
    }

    /** Has devices introduced, unless that was asked before. */
    public void ask(String outlet, Collection<String> devices, String by) {
        ask(outlet, devices, by, null, false);
    }

    /** The same for people: what was refused is tried again. */
    public void askAgain(String outlet, Collection<String> devices, String by, UUID job) {
        ask(outlet, devices, by, job, true);
    }

    private void ask(String outlet, Collection<String> devices, String by, UUID job, boolean again) {
        Instant now = clock.instant();
        tables.transaction.execute(() -> {
            told(outlet, devices);
            return tables.introductions.ask(outlet, devices.toArray(String[]::new), by, job, again, now);
        });
        readAgain(outlet, devices);
    }

    /** Taken in hand by a person: it moves when that person says so. */
    public Introduction byHand(String outlet, String device, String by) {
        Instant now = clock.instant();
        tables.transaction.execute(() -> {
            told(outlet, List.of(device));
            tables.introductions.ask(outlet, new String[] {device}, by, null, false, now);
            return tables.introductions.hold(outlet, device);
        });
        return look(outlet, device).orElseThrow();
    }

    /** It was found there, made by somebody else; what is known of it there stays as it is. */
    public void existed(String outlet, String device, String id, String by) {
        tables.transaction.execute(() -> {
            told(outlet, List.of(device));
            return tables.introductions.existed(outlet, device, id, by, clock.instant());
        });
        look(outlet, device);
    }

    /**
     * Those whose turn it is.
     *
     * @param removals whether those that are to be gone there are wanted, or the others
     */
    public List<Introduction> due(String outlet, boolean removals, int limit) {
        return tables.introductions.due(outlet, removals, clock.instant(), limit).stream()
                .map(tables.rows::introduction)
                .toList();
    }

    /**
     * Writes how far one has come, and what was made there with that.
     *
     * @return false if it was asked to be something else meanwhile
     */
    public boolean write(Introduction one, List<String> made) {
        if (!tables.writer.write(one, made)) {
            readAgain(one.outlet(), List.of(one.device()));
            return false;
        }
        remember(one);
        if (one.isKnown()) {
            events.publishEvent(new DeviceKnown(one.outlet(), List.of(one.device())));
        }
        return true;
    }

    /** The destination does not know a device that was known there. Says how it stands now. */
    public Optional<Introduction> gone(Introduction known, String reason) {
        tables.transaction.execute(() -> {
            told(known.outlet(), List.of(known.device()));
            return tables.introductions.gone(
                    known.outlet(), known.device(), known.progress().version(), reason, clock.instant());
        });
        return look(known.outlet(), known.device());
    }

    /** The destination took a message of one that was introduced once more. */
    public void delivered(Introduction anew) {
        tables.introductions.delivered(
                anew.outlet(), anew.device(), anew.progress().version());
        readAgain(anew.outlet(), List.of(anew.device()));
    }

    /** Those that were refused are tried again: something was mended. */
    public void again(String outlet) {
        List<String> devices = tables.introductions.again(outlet, clock.instant());
        if (!devices.isEmpty()) {
            told(outlet, devices);
            readAgain(outlet, devices);
        }
    }

    /** Tells other nodes that what stood in the way at an outlet may be gone. */
    public void mended(String outlet) {
        cluster.publish(ClusterEvent.Topic.INTRODUCTION, outlet + " ");
    }

    /** Facts of a device changed: if it was refused for want of one, it is tried again. */
    public void againForFacts(String outlet, String device) {
        boolean lacked = find(outlet, device)
                .map(Introduction::refusal)
                .filter(refusal -> refusal.why() == Why.LACKS_FACT)
                .isPresent();
        if (lacked) {
            askAgain(outlet, List.of(device), "changed facts", null);
        }
    }

    /** Has devices removed at the destination. Says how many. */
    public int remove(String outlet, Collection<String> devices, String by, UUID job) {
        List<String> marked =
                tables.introductions.remove(outlet, devices.toArray(String[]::new), by, job, clock.instant());
        told(outlet, marked);
        readAgain(outlet, marked);
        return marked.size();
    }

    /** The device is not there any longer, and nothing is known of it. */
    public void removed(String outlet, List<String> devices, String by) {
        tables.transaction.execute(() -> {
            String[] keys = devices.toArray(String[]::new);
            tables.made.removed(outlet, keys, by, clock.instant());
            told(outlet, devices);
            return tables.introductions.forget(outlet, keys);
        });
        devices.forEach(device -> all.remove(new Key(outlet, device)));
    }

    /**
     * @param after the key of the last device of the page before; empty for the first
     * @param state null for all
     */
    public List<Introduction> list(String outlet, String after, IntroductionState state, int limit) {
        return tables.introductions.list(outlet, after, state == null ? null : state.word(), limit).stream()
                .map(tables.rows::introduction)
                .toList();
    }

    /** How many devices stand how; of those that are refused by why. */
    public Map<String, Long> counts(String outlet, UUID job) {
        Map<String, Long> counts = new LinkedHashMap<>();
        for (IntroductionState state : IntroductionState.values()) {
            counts.put(state.word(), 0L);
        }
        for (IntroductionMapper.Count count : tables.introductions.counts(outlet, job)) {
            counts.merge(count.state(), count.count(), Long::sum);
            if (count.existed() && count.state().equals(IntroductionState.KNOWN.word())) {
                counts.merge("existed already", count.count(), Long::sum);
            }
            if (count.why() != null && count.state().equals(IntroductionState.REFUSED.word())) {
                counts.merge("refused: " + count.why(), count.count(), Long::sum);
            }
        }
        return counts;
    }

    /** What the latest of those that a job wants waits for, to be tried again; null if none does. */
    public String hindrance(UUID job) {
        return tables.introductions.hindrance(job);
    }

    /** Takes back that devices are to be introduced of which nothing is there yet. */
    public void withdraw(String outlet, Predicate<String> which) {
        String[] devices = all.values().stream()
                .filter(one -> one.outlet().equals(outlet) && which.test(one.device()))
                .map(Introduction::device)
                .toArray(String[]::new);
        List<String> gone = tables.introductions.withdraw(outlet, devices);
        told(outlet, gone);
        readAgain(outlet, gone);
    }

    /** How many devices are known there, whoever made them. */
    public long countKnown(String outlet) {
        return all.values().stream()
                .filter(one -> one.isKnown() && one.outlet().equals(outlet))
                .count();
    }

    /** Devices that somebody must do something for, before they are known at an outlet. */
    public List<Introduction> stuck(String outlet) {
        return all.values().stream()
                .filter(one -> one.outlet().equals(outlet) && one.refusal() != null && !one.isKnown())
                .sorted(Comparator.comparing(one -> one.progress().since()))
                .toList();
    }

    /** The keys of devices of which something was made there, and is there still; those after one, in order. */
    public List<String> devicesMade(String outlet, String after, int limit) {
        return tables.made.devices(outlet, after, limit);
    }

    /**
     * What was made there and is there still, the first made first.
     *
     * @param after the number of the last of the page before; null for the first page
     * @param differing whether only what a comparison found otherwise than we made it
     */
    public List<MadeThere> made(String outlet, Long after, boolean differing, int limit) {
        return tables.made.list(outlet, after == null ? 0 : after, differing, limit).stream()
                .map(row -> new MadeThere(
                        row.number(),
                        row.outlet(),
                        row.device(),
                        row.what(),
                        row.name(),
                        row.thereId(),
                        row.at(),
                        row.byWhom(),
                        row.revision(),
                        row.differs() == null ? null : JSON.readValue(row.differs(), DIFFERENCES),
                        row.compared()))
                .toList();
    }

    /** How many devices were made there and are there still. */
    public long countMade(String outlet) {
        return tables.made.count(outlet, MadeThere.DEVICE);
    }

    /** What a comparison found of a device. */
    public void compared(String outlet, String device, List<String> differences) {
        tables.made.compared(outlet, device, JSON.writeValueAsString(differences), clock.instant());
    }

    /** Seals with the first key of the key file what was sealed with another. */
    public void sealAnew() {
        List<Introduction> old = new ArrayList<>();
        for (IntroductionMapper.Row row : tables.introductions.all()) {
            if (tables.rows.isSealedWithOldKey(row)) {
                old.add(tables.rows.introduction(row));
            }
        }
        if (!old.isEmpty()) {
            tables.introductions.write(
                    IntroductionColumns.of(old.stream().map(tables.rows::row).toList()));
        }
    }
}
