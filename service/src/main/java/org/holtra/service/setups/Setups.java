package org.holtra.service.setups;

import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.core.setup.document.SetupProblem;
import org.holtra.service.cluster.ClusterEvent;
import org.holtra.service.cluster.ClusterEvents;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.journal.LaneDebts;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.context.event.EventListener;
import org.springframework.dao.DuplicateKeyException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/** The active setup, the revisions before it, and the way from one to the next. */
@Component
public class Setups {

    /** What becomes of the deliveries of lanes that a new setup removes or sends elsewhere. */
    public enum Waiting {
        /** The setup is not adopted if there are any, nor if an outlet goes that made devices which are there still. */
        REFUSE,
        /** The same, but what was made at destinations stays there. */
        LEAVE,
        /** They are dropped. */
        DROP,
        /** They go where the lane goes now; those of lanes that are gone are dropped. */
        FOLLOW
    }

    private static final int EARLIER_KEPT = 20;
    private static final Logger log = LoggerFactory.getLogger(Setups.class);

    private final SetupMapper mapper;
    private final SetupCompiler compiler;
    private final CredentialStore credentials;
    private final Owed owed;
    private final LaneDebts debts;
    private final Change change;
    /** The revisions that were asked for last. */
    private final Map<Integer, Setup> earlier = Collections.synchronizedMap(new LinkedHashMap<>(16, 0.75f, true) {
        @Override
        protected boolean removeEldestEntry(Map.Entry<Integer, Setup> eldest) {
            return size() > EARLIER_KEPT;
        }
    });

    private volatile Setup current = Setup.empty();
    private volatile Uncompiled uncompiled;

    /** What a change needs: a transaction, a time, and somebody to tell. */
    @Component
    record Change(
            TransactionTemplate transaction,
            InstantSource clock,
            ApplicationEventPublisher events,
            ClusterEvents cluster) {}

    /** What would be left behind by parts that go. */
    @Component
    record Owed(LaneDebts lanes, Introductions introductions) {}

    Setups(SetupMapper mapper, SetupCompiler compiler, CredentialStore credentials, Owed owed, Change change) {
        this.owed = owed;
        this.mapper = mapper;
        this.compiler = compiler;
        this.credentials = credentials;
        this.debts = owed.lanes;
        this.change = change;
    }

    public Setup current() {
        return current;
    }

    /** Makes the newest revision active, as it was adopted. */
    public synchronized void load() {
        mapper.newest().filter(newest -> newest.revision() > current.revision()).ifPresent(newest -> {
            SetupCompiler.Result result = compiler.compile(newest.yaml());
            if (result.setup().isEmpty()) {
                uncompiled = new Uncompiled(newest.revision(), result.problems());
                log.error("{}", uncompiled.text());
                return;
            }
            Setup setup = result.setup().get().withRevision(newest.revision());
            uncompiled = null;
            Setup before = current;
            current = setup;
            change.events.publishEvent(new SetupAdopted(before, setup));
            log.info("Setup revision {} is active", setup.revision());
        });
    }

    /** The newest revision, which this version cannot compile: it was adopted by way of another. */
    public record Uncompiled(int revision, List<SetupProblem> problems) {

        public String text() {
            SetupProblem first = problems.getFirst();
            return "setup revision " + revision + " cannot be compiled by this version and is not active: "
                    + first
                    + (problems.size() > 1 ? ", and " + (problems.size() - 1) + " more" : "")
                    + "; adopt a setup without that";
        }
    }

    /** Empty if the newest revision is active. Whatever was active before stays so; after a start that is nothing. */
    public Optional<Uncompiled> uncompiled() {
        return Optional.ofNullable(uncompiled);
    }

    private int newest() {
        Uncompiled newest = uncompiled;
        return newest == null ? current.revision() : newest.revision;
    }

    /** Another node adopted a setup. */
    @EventListener
    void on(ClusterEvent event) {
        if (event.is(ClusterEvent.Topic.SETUP)) {
            load();
        }
    }

    public SetupCompiler.Result check(String yaml) {
        return compiler.compile(yaml, credentials.forms());
    }

    public Optional<SetupRevision> revision(int number) {
        return mapper.find(number);
    }

    public List<SetupRevision> revisions() {
        return mapper.all();
    }

    /**
     * The newest first, without their text.
     *
     * @param after the last one of the page before; null to begin
     */
    public List<SetupRevision> revisions(Long after, int limit) {
        return mapper.list(after, limit);
    }

    /** A setup that was once active, compiled anew; empty if there was none of this revision. */
    public Optional<Setup> compiled(int revision) {
        if (revision == current.revision()) {
            return Optional.of(current);
        }
        Setup known = earlier.get(revision);
        if (known != null) {
            return Optional.of(known);
        }
        Optional<Setup> compiled = mapper.find(revision)
                .flatMap(row -> compiler.compile(row.yaml()).setup())
                .map(setup -> setup.withRevision(revision));
        compiled.ifPresent(setup -> earlier.put(revision, setup));
        return compiled;
    }

    /**
     * Checks a setup as a whole and applies it, at once and for everything.
     *
     * @param basedOn the revision it was made from; it is refused if another has been adopted since. Null to not care
     */
    public synchronized Setup adopt(String yaml, String by, String note, Integer basedOn, Waiting waiting)
            throws SetupRefused {
        if (basedOn != null && basedOn != newest()) {
            throw new SetupRefused(
                    SetupRefused.Why.OVERTAKEN,
                    "revision " + newest() + " was adopted meanwhile, this one was made from revision " + basedOn,
                    List.of());
        }
        SetupCompiler.Result result = check(yaml);
        if (result.setup().isEmpty()) {
            int count = result.problems().size();
            throw new SetupRefused(
                    SetupRefused.Why.WRONG,
                    count == 1 ? "the setup has an error" : "the setup has " + count + " errors",
                    result.problems());
        }
        Setup before = current;
        Setup after = result.setup().get().withRevision(newest() + 1);
        if (waiting == Waiting.REFUSE) {
            refuseIfMade(before, after);
        }
        if (waiting == Waiting.REFUSE || waiting == Waiting.LEAVE) {
            refuseIfWaiting(before, after);
        }
        try {
            enter(before, after, waiting, new SetupRevision(after.revision(), change.clock.instant(), by, note, yaml));
        } catch (DuplicateKeyException e) {
            load();
            throw new SetupRefused(
                    SetupRefused.Why.OVERTAKEN,
                    "revision " + after.revision() + " was adopted by way of another node at the same moment",
                    List.of());
        }
        current = after;
        uncompiled = null;
        change.events.publishEvent(new SetupAdopted(before, after));
        log.info("Setup revision {} was adopted by {}", after.revision(), by);
        return after;
    }

    private void enter(Setup before, Setup after, Waiting waiting, SetupRevision row) {
        change.transaction.executeWithoutResult(status -> {
            mapper.add(row);
            settleWaiting(before, after, waiting, row.adoptedBy());
            closeAndOpen(before, after);
            order(before, after);
            change.cluster.publish(ClusterEvent.Topic.SETUP, Integer.toString(row.revision()));
        });
    }

    /** The time a lane is closed does not count towards giving up what it owes. Lanes that stay as they are cost nothing. */
    private void closeAndOpen(Setup before, Setup after) {
        Instant now = change.clock.instant();
        for (Lane lane : before.lanes().values()) {
            if (lane.closed() && !closed(after, lane.name())) {
                mapper.laneOpened(lane.name()).ifPresent(since -> debts.prolong(lane.name(), since, now));
            }
        }
        for (Lane lane : after.lanes().values()) {
            if (lane.closed() && !closed(before, lane.name())) {
                mapper.laneClosed(lane.name(), now);
            }
        }
    }

    private void order(Setup before, Setup after) {
        for (Lane lane : after.lanes().values()) {
            Lane then = before.lanes().get(lane.name());
            if (then != null && then.ordered() != lane.ordered()) {
                debts.order(lane.name(), lane.ordered());
            }
        }
    }

    private static boolean closed(Setup setup, String lane) {
        return setup.lanes().containsKey(lane) && setup.lanes().get(lane).closed();
    }

    private void refuseIfWaiting(Setup before, Setup after) throws SetupRefused {
        List<String> affected = new ArrayList<>();
        Map<String, Long> counts = new LinkedHashMap<>();
        for (Lane lane : before.lanes().values()) {
            Lane next = after.lanes().get(lane.name());
            if (next == null || !next.outlet().equals(lane.outlet())) {
                long count = debts.countOf(lane.name());
                if (count > 0) {
                    counts.put(lane.name(), count);
                    affected.add("lane `" + lane.name() + "` owes " + count + " deliveries and would "
                            + (next == null ? "be gone" : "go to `" + next.outlet() + "`"));
                }
            }
        }
        if (!affected.isEmpty()) {
            throw SetupRefused.waiting(
                    String.join("; ", affected) + ". Say whether what waits is to be dropped or to follow its lane.",
                    counts);
        }
    }

    private void refuseIfMade(Setup before, Setup after) throws SetupRefused {
        Map<String, Long> counts = new LinkedHashMap<>();
        before.outlets().keySet().stream()
                .filter(name -> !after.outlets().containsKey(name))
                .forEach(name -> {
                    long made = owed.introductions.countMade(name);
                    if (made > 0) {
                        counts.put(name, made);
                    }
                });
        if (!counts.isEmpty()) {
            throw SetupRefused.made(
                    counts.entrySet().stream()
                                    .map(one -> "outlet `" + one.getKey() + "` made " + one.getValue()
                                            + " devices at its destination, which are there still")
                                    .collect(Collectors.joining("; "))
                            + ". Remove them first, or say that they may stay there.",
                    counts);
        }
    }

    private void settleWaiting(Setup before, Setup after, Waiting waiting, String by) {
        for (Lane lane : before.lanes().values()) {
            Lane next = after.lanes().get(lane.name());
            if (next == null) {
                debts.drop(lane.name(), "the lane was removed by " + by);
            } else if (!next.outlet().equals(lane.outlet())) {
                if (waiting == Waiting.FOLLOW) {
                    debts.reaim(lane.name(), next.outlet());
                } else {
                    debts.drop(lane.name(), "the lane was sent elsewhere by " + by);
                }
            }
        }
    }
}
