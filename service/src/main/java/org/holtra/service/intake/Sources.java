package org.holtra.service.intake;

import java.time.Instant;
import java.time.InstantSource;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.locks.ReentrantLock;
import java.util.stream.Collectors;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.cluster.InletOwners;
import org.holtra.service.connections.Connections;
import org.holtra.service.connections.Thing;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialChanged;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.devices.FieldDescriptions;
import org.holtra.service.journal.Journal;
import org.holtra.service.setups.SetupAdopted;
import org.holtra.service.spool.Spool;
import org.springframework.context.event.EventListener;
import org.springframework.core.annotation.Order;
import org.springframework.stereotype.Component;

/** Supervises the sources of the active setup: which are open on this node, and which wait, are paused or broken. */
@Component
public class Sources {

    /** What tells whether a source may run. */
    @Component
    record Surroundings(
            Journal journal,
            Spool spool,
            InletOwners owners,
            Connections connections,
            FieldDescriptions descriptions) {}

    private final Map<String, SourceKind> kinds;
    private final Surroundings around;
    private final SourceContext.Means means;
    private final InstantSource clock;
    private final ReentrantLock lock = new ReentrantLock();
    private final Map<String, SupervisedSource> sources = new LinkedHashMap<>();
    private boolean closed;

    Sources(
            Collection<SourceKind> kinds,
            Surroundings around,
            Intake intake,
            CredentialStore credentials,
            InstantSource clock) {
        this.kinds = kinds.stream().collect(Collectors.toMap(SourceKind::name, kind -> kind));
        this.around = around;
        this.means = new SourceContext.Means(intake, around.journal, credentials::find, around.descriptions);
        this.clock = clock;
    }

    /** After the dispatcher, which must know a lane's outlet before a message can come in for it. */
    @EventListener
    @Order(2)
    void adopted(SetupAdopted event) {
        Map<String, Inlet> inlets = event.after().inlets();
        locked(() -> {
            sources.values().removeIf(source -> {
                Inlet next = inlets.get(source.inlet().name());
                boolean gone =
                        next == null || !next.kind().equals(source.inlet().kind());
                if (gone) {
                    source.remove();
                }
                return gone;
            });
            inlets.values().forEach(this::configure);
        });
        around.connections.retain(Thing.Sort.INLET, inlets.keySet());
    }

    private void configure(Inlet inlet) {
        Instant now = clock.instant();
        SupervisedSource there = sources.get(inlet.name());
        if (there == null) {
            SourceKind kind = kinds.get(inlet.kind());
            there = new SupervisedSource(kind, means, around.connections.of(Thing.inlet(inlet.name())), inlet);
            sources.put(inlet.name(), there);
            if (kind.placement(inlet) == SourceKind.Placement.EVERY_NODE) {
                there.reopen(now);
            }
        } else if (there.isOpen() || kinds.get(inlet.kind()).placement(inlet) == SourceKind.Placement.EVERY_NODE) {
            there.configure(inlet, now);
        } else {
            there.expect(inlet);
        }
    }

    @EventListener
    void credentialChanged(CredentialChanged event) {
        locked(() -> sources.values().stream()
                .filter(source -> source.isOpen()
                        && source.kind()
                                .credential(source.inlet())
                                .filter(event.name()::equals)
                                .isPresent())
                .forEach(source -> source.reopen(clock.instant())));
    }

    /** Called every so often: opens what could not be opened, pauses and resumes, takes over what nobody runs. */
    public void tick() {
        boolean keeps = !around.journal.isAway() && !around.spool.isActive();
        Map<String, Inlet> onOne = locked(() -> sources.values().stream()
                .filter(source -> source.kind().placement(source.inlet()) == SourceKind.Placement.ONE_NODE
                        && !source.inlet().closed())
                .collect(Collectors.toMap(source -> source.inlet().name(), SupervisedSource::inlet)));
        Map<String, String> owners =
                onOne.isEmpty() || around.journal.isAway() ? Map.of() : around.owners.claim(onOne.keySet());
        locked(() -> {
            if (closed) {
                return;
            }
            Instant now = clock.instant();
            sources.values().forEach(source -> {
                String name = source.inlet().name();
                boolean mine = !onOne.containsKey(name) || around.owners.isMine(name) && (keeps || source.isOpen());
                if (mine) {
                    source.tick(keeps, now);
                } else {
                    source.leave(owners.get(name) == null ? null : "node " + owners.get(name) + " runs it");
                }
            });
        });
    }

    /** The inlets that could not be opened, and why. */
    public Map<String, String> broken() {
        return locked(() -> sources.values().stream()
                .filter(source -> source.broken() != null)
                .collect(Collectors.toMap(source -> source.inlet().name(), SupervisedSource::broken)));
    }

    /** Whether each node has it open; else one of them does. */
    public boolean isOnEveryNode(Inlet inlet) {
        return inlet.name().equals(Setup.OWN_INLET)
                || kinds.get(inlet.kind()).placement(inlet) == SourceKind.Placement.EVERY_NODE;
    }

    /** The kind of an inlet that is not Holtra's own. */
    SourceKind kind(Inlet inlet) {
        return kinds.get(inlet.kind());
    }

    /** Where senders reach an inlet, or what it reads; null for the inlet of Holtra's own messages. */
    public String address(Inlet inlet) {
        return inlet.name().equals(Setup.OWN_INLET)
                ? null
                : kinds.get(inlet.kind()).address(inlet);
    }

    /** A command that sends an inlet its first message, if its kind knows one; {@code ORIGIN} is the service's address. */
    public Optional<String> exampleCommand(Inlet inlet) {
        if (inlet.name().equals(Setup.OWN_INLET)) {
            return Optional.empty();
        }
        SourceKind kind = kinds.get(inlet.kind());
        Credential credential =
                kind.credential(inlet).flatMap(means.credentials()::find).orElse(null);
        return kind.exampleCommand(inlet, credential);
    }

    /** Whether that address is a path at the service's own. */
    public boolean addressIsPath(Inlet inlet) {
        return !inlet.name().equals(Setup.OWN_INLET) && kinds.get(inlet.kind()).addressIsPath();
    }

    /** Before the journal: nothing comes in any more. */
    public void close() {
        locked(() -> {
            closed = true;
            sources.values().forEach(SupervisedSource::close);
            sources.clear();
        });
        around.owners.leave(around.owners.mine());
    }

    private void locked(Runnable work) {
        locked(() -> {
            work.run();
            return null;
        });
    }

    private <T> T locked(java.util.function.Supplier<T> work) {
        lock.lock();
        try {
            return work.get();
        } finally {
            lock.unlock();
        }
    }
}
