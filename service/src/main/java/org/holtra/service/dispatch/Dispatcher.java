package org.holtra.service.dispatch;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.holtra.core.delivery.Fate;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.core.message.Message;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.core.shape.Content;
import org.holtra.service.cluster.ClusterEvent;
import org.holtra.service.cluster.Node;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.connections.CheckSteps;
import org.holtra.service.connections.Thing;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialChanged;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.credentials.CredentialTouched;
import org.holtra.service.introductions.DeviceKnown;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.HeldDelivery;
import org.holtra.service.setups.SetupAdopted;
import org.holtra.service.tokens.AccessTokens;
import org.holtra.service.tokens.TokenFailure;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.event.EventListener;
import org.springframework.core.annotation.Order;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/** All outlets' runners, and the way to the right one. */
@Component
public class Dispatcher {

    /** An outlet as it stands. */
    public record OutletState(
            String name, OutletHealth health, int inFlight, int queued, List<HeldDevices.Held> held) {}

    private static final Duration PATIENCE_AT_CLOSE = Duration.ofSeconds(20);

    /** Of each lane; what is stuck is its oldest before long. */
    private static final int STRAYS_LOOKED_FOR = 500;

    private static final Logger log = LoggerFactory.getLogger(Dispatcher.class);

    private final DispatchContext context;
    private final Means means;
    private final Map<String, OutletKind> kinds;
    private final Map<String, OutletRunner> runners = new ConcurrentHashMap<>();
    private Map<String, OutletHealthStore.Remembered> remembered = Map.of();
    private volatile Setup setup = Setup.empty();

    /** Devices that became known at each outlet since the last look. */
    private final Map<String, Set<String>> known = new ConcurrentHashMap<>();

    /** Deliveries that were in nobody's hands the last time somebody looked. */
    private Set<UUID> suspects = Set.of();

    /** What outlets are opened with. */
    @Component
    record Means(CredentialStore credentials, AccessTokens tokens) {}

    Dispatcher(DispatchContext context, Means means, Collection<OutletKind> kinds) {
        this.context = context;
        this.means = means;
        this.kinds = kinds.stream().collect(Collectors.toMap(OutletKind::name, kind -> kind));
    }

    /** Before the first setup. */
    public void load() {
        remembered = context.healths().load();
    }

    @EventListener
    @Order(1)
    void adopted(SetupAdopted event) {
        setup = event.after();
        Set<String> gone = new HashSet<>(runners.keySet());
        gone.removeAll(setup.outlets().keySet());
        gone.forEach(name -> runners.get(name).unconfigure());
        for (Outlet outlet : setup.outlets().values()) {
            if (outlet.equals(event.before().outlets().get(outlet.name()))) {
                runner(outlet.name()).serve(lanesOf(outlet));
            } else {
                configure(outlet);
            }
        }
    }

    /** Another node found an outlet's destination blocked, broken, paused or well. */
    @EventListener
    void on(ClusterEvent event) {
        OutletRunner runner = runners.get(event.name());
        if (event.is(ClusterEvent.Topic.OUTLET) && runner != null) {
            context.healths().find(event.name()).ifPresent(runner::hear);
        }
    }

    @EventListener
    void credentialChanged(CredentialChanged event) {
        setup.outlets().values().stream()
                .filter(outlet -> event.name().equals(outlet.credential()))
                .forEach(this::configure);
    }

    /** What waited for devices to be known at an outlet may go. */
    @EventListener
    void known(DeviceKnown event) {
        known.computeIfAbsent(event.outlet(), outlet -> ConcurrentHashMap.newKeySet())
                .addAll(event.devices());
    }

    /** Many become known at once where many are introduced: what waits for them is brought forward together. */
    private void bringForwardKnown() {
        for (Map.Entry<String, Set<String>> one : known.entrySet()) {
            List<String> devices = List.copyOf(one.getValue());
            OutletRunner runner = runners.get(one.getKey());
            if (!devices.isEmpty() && runner != null) {
                context.journal().bringForward(one.getKey(), devices, Fate.INTRODUCED);
                runner.lookAt(context.clock().instant());
            }
            one.getValue().removeAll(devices);
        }
    }

    /** A token can be had again: what waited for it goes on. */
    @EventListener
    void credentialTouched(CredentialTouched event) {
        setup.outlets().values().stream()
                .filter(outlet -> event.name().equals(outlet.credential()) || outlet.credentialBy() != null)
                .forEach(outlet -> {
                    tryDevices(outlet.name(), null);
                    tryNow(outlet.name());
                });
    }

    private void configure(Outlet outlet) {
        runner(outlet.name()).configure(outlet, open(outlet), lanesOf(outlet));
    }

    /** A kind that fails harms its outlet only: the rest of the setup takes effect. */
    private Sink open(Outlet outlet) {
        try {
            return kinds.get(outlet.kind()).open(outlet, ownCredential(outlet));
        } catch (RuntimeException e) {
            log.error("Outlet {} cannot be opened", outlet.name(), e);
            return Unopened.because(e);
        }
    }

    /** What an outlet is opened with: a token comes with each request. */
    private Credential ownCredential(Outlet outlet) {
        return means.tokens.isLive(outlet.credential())
                ? null
                : means.credentials.find(outlet.credential()).orElse(null);
    }

    private OutletRunner.Lanes lanesOf(Outlet outlet) {
        Map<Boolean, Set<String>> byClosed = setup.lanesTo(outlet.name()).stream()
                .collect(Collectors.partitioningBy(Lane::closed, Collectors.mapping(Lane::name, Collectors.toSet())));
        Set<String> ordered = setup.lanesTo(outlet.name()).stream()
                .filter(lane -> lane.ordered() && !lane.closed())
                .map(Lane::name)
                .collect(Collectors.toSet());
        return new OutletRunner.Lanes(byClosed.get(false), byClosed.get(true), ordered);
    }

    private OutletRunner runner(String outlet) {
        return runners.computeIfAbsent(
                outlet,
                name -> new OutletRunner(
                        name,
                        context,
                        remembered.getOrDefault(
                                name,
                                new OutletHealthStore.Remembered(
                                        OutletHealth.flowing(context.clock().instant()), List.of()))));
    }

    /**
     * Reserves room in memory for a delivery that is about to be committed; false if it must go by the table, and then
     * {@link #leftInTable} is to be called.
     */
    public boolean reserve(Delivery.Owed owed, long bytes) {
        OutletRunner runner = runners.get(owed.outlet());
        return runner != null && runner.reserve(owed, bytes);
    }

    /** A delivery for which room was reserved came to nothing. */
    public void unreserve(Delivery.Owed owed, long bytes) {
        runners.get(owed.outlet()).unreserve(owed, bytes);
    }

    /** A delivery for which room was reserved is durable, but this node's no more than another's. */
    public void notOurs(Delivery.Owed owed, long bytes) {
        runners.get(owed.outlet()).notOurs(owed, bytes);
    }

    /** A delivery for which room was reserved may or may not be durable; {@link #leftInTable} is to be told once that is known. */
    public void uncertain(Delivery.Owed owed, long bytes) {
        runners.get(owed.outlet()).uncertain(owed, bytes);
    }

    /** A delivery is about to be written to the table; {@link #leftInTable} is to be told once it is, or came to nothing. */
    public void leaves(Delivery.Owed owed) {
        OutletRunner runner = runners.get(owed.outlet());
        if (runner != null) {
            runner.leaves(owed);
        }
    }

    /** A delivery for which no room was reserved is durable, or came to nothing. */
    public void leftInTable(Delivery.Owed owed) {
        OutletRunner runner = runners.get(owed.outlet());
        if (runner != null) {
            runner.leftInTable(owed);
        }
    }

    /** Takes over a delivery that was reserved and is now durable, under this id of the node. */
    public void offer(Delivery delivery, Message message, UUID owner) {
        runners.get(delivery.owed().outlet()).offer(new Task(delivery, message, owner));
    }

    /** Renews this node's lease, and does what follows from who else is there. */
    public void renewLease() {
        Node node = context.node();
        boolean company = node.hasCompany();
        Node.News news = node.renew();
        if (news.lost()) {
            runners.values().forEach(OutletRunner::abandon);
        }
        if (news.joins() != node.joins()) {
            runners.values().forEach(OutletRunner::doubtOrdered);
            node.saw(news.joins());
        }
        if (company && !node.hasCompany()) {
            runners.values().forEach(OutletRunner::doubtOrdered);
        }
        news.freed().forEach(this::wake);
        try {
            context.journal().settleDoubts().forEach(this::leftInTable);
            context.backlog().settleDoubts(context.clock().instant()).forEach(this::wake);
        } catch (DataAccessException | TransactionException e) {
            log.debug("What was in doubt could not be looked for yet: {}", e.getMessage());
        }
    }

    /** Called every so often: what the table says this node has in its hands, and it has not, waits again. */
    public void freeStrays() {
        if (context.journal().isAway()) {
            // What was about to be written when it went away is written first when it is back.
            suspects = Set.of();
            return;
        }
        Map<UUID, String> held = context.journal().heldByThisNode(STRAYS_LOOKED_FOR).stream()
                .collect(Collectors.toMap(HeldDelivery::id, HeldDelivery::outlet, (a, b) -> a));
        runners.values().forEach(runner -> held.keySet().removeAll(runner.inHand()));
        Set<UUID> strays = new HashSet<>(held.keySet());
        strays.retainAll(suspects);
        suspects = Set.copyOf(held.keySet());
        if (!strays.isEmpty()) {
            log.warn(
                    "{} deliveries were this node's and in nobody's hands; they wait again: {}", strays.size(), strays);
            context.journal().free(strays);
            strays.stream().map(held::get).distinct().forEach(this::wake);
        }
    }

    /** There is something in the table for this outlet, due now. */
    public void wake(String outlet) {
        OutletRunner runner = runners.get(outlet);
        if (runner != null) {
            runner.lookAt(context.clock().instant());
        }
    }

    /** Tries a blocked, broken or paused outlet again at once; false if there is none of that name. */
    public boolean tryNow(String outlet) {
        OutletRunner runner = runners.get(outlet);
        if (runner == null || !setup.outlets().containsKey(outlet)) {
            return false;
        }
        runner.tryNow();
        return true;
    }

    /**
     * Tries devices that an outlet holds again at once.
     *
     * @param device null for all of them
     * @return those it held
     */
    public List<String> tryDevices(String outlet, String device) {
        OutletRunner runner = runners.get(outlet);
        List<String> freed = runner == null ? List.of() : runner.free(device);
        if (!freed.isEmpty()) {
            context.journal().bringForward(outlet, freed, Fate.HELD);
            runner.lookAt(context.clock().instant());
        }
        return freed;
    }

    /** Where an outlet sends, as people are told it. */
    public String address(Outlet outlet) {
        return kinds.get(outlet.kind()).address(outlet);
    }

    /** The words for how batches to an outlet may stand together, the usual one first. */
    public List<String> batchForms(Outlet outlet) {
        return kinds.get(outlet.kind()).batchForms();
    }

    /**
     * Looks step by step whether an outlet would work, as it is or as somebody wants it to be.
     *
     * @param samples what lanes would send it now, one of each
     */
    public List<CheckStep> check(Outlet outlet, List<Content> samples) {
        List<CheckStep> steps = checked(outlet, samples);
        context.diary().writeFailures(Thing.outlet(outlet.name()), steps);
        return steps;
    }

    private List<CheckStep> checked(Outlet outlet, List<Content> samples) {
        OutletKind kind = kinds.get(outlet.kind());
        if (!means.tokens.isLive(outlet.credential())) {
            return kind.check(outlet, ownCredential(outlet), samples);
        }
        CheckSteps steps = new CheckSteps();
        Credential token;
        try {
            token = means.tokens.presented(outlet.credential());
            steps.passed("token", "the authorization server gave one");
        } catch (TokenFailure e) {
            steps.failed("token", e.getMessage(), "Mend credential " + outlet.credential() + ".");
            return steps.all();
        }
        List<CheckStep> all = new ArrayList<>(steps.all());
        all.addAll(kind.check(outlet, token, samples));
        return all;
    }

    /** What an attempt would send through an outlet; empty if there is none of that name. */
    public Optional<Exchange> preview(String outlet, Request request) {
        return through(outlet, sink -> sink.preview(alone(outlet, request)));
    }

    /**
     * Sends something once, for a person to see what comes back. The outlet's health and its deliveries stay as they are.
     * Empty if there is none of that name.
     */
    public Optional<Attempted> trial(String outlet, Request request) {
        return through(outlet, sink -> sink.attempt(alone(outlet, request)));
    }

    /** An outlet that sends batches sends a batch of one then. */
    private Request alone(String name, Request request) {
        return Optional.ofNullable(runners.get(name))
                .flatMap(OutletRunner::batch)
                .map(batch -> request.asBatch())
                .orElse(request);
    }

    /** Does something with a way of its own to the destination of an outlet as somebody wants it to be. */
    public <T> T apart(Outlet outlet, Function<Sink, T> work) {
        try (Sink sink = open(outlet)) {
            return work.apply(sink);
        }
    }

    /** Does something with an outlet's way to its destination; empty if there is none of that name. */
    public <T> Optional<T> through(String outlet, Function<Sink, T> work) {
        OutletRunner runner = runners.get(outlet);
        Optional<SharedSink> shared = runner == null ? Optional.empty() : runner.sink();
        return shared.map(sink -> {
            try {
                return work.apply(sink.sink());
            } finally {
                sink.release();
            }
        });
    }

    public Map<String, OutletState> states() {
        Map<String, OutletState> states = new LinkedHashMap<>();
        runners.forEach((name, runner) -> {
            OutletRunner.Hands hands = runner.hands();
            states.put(name, new OutletState(name, runner.health(), hands.inFlight(), hands.queued(), hands.held()));
        });
        return states;
    }

    /** Called every so often. */
    public void tick() {
        runners.values().forEach(OutletRunner::tick);
        bringForwardKnown();
    }

    public void writeHealth() {
        context.healths().write();
    }

    /** Starts nothing more and waits, for a while, until what is under way has ended. */
    public void close() {
        runners.values().forEach(OutletRunner::close);
        Instant deadline = context.clock().instant().plus(PATIENCE_AT_CLOSE);
        while (underWay() > 0 && context.clock().instant().isBefore(deadline)) {
            try {
                Thread.sleep(20);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                break;
            }
        }
        if (underWay() > 0) {
            log.warn("{} attempts were still under way and will be made again", underWay());
        }
        runners.values().forEach(OutletRunner::release);
    }

    private int underWay() {
        return runners.values().stream()
                .mapToInt(runner -> runner.hands().inFlight())
                .sum();
    }
}
