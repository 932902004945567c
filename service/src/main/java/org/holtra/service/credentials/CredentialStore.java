package org.holtra.service.credentials;

import java.security.SecureRandom;
import java.time.Instant;
import java.time.InstantSource;
import java.time.temporal.ChronoUnit;
import java.util.Arrays;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.holtra.service.cluster.ClusterEvent;
import org.holtra.service.cluster.ClusterEvents;
import org.holtra.service.settings.HoltraSettings;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** All credentials: sealed in the database, open in memory only, given out to inlets and outlets and to nobody else. */
@Component
public class CredentialStore {

    /** What may be shown of one. */
    public record Entry(String name, String form, Instant changed, String changedBy) {}

    /** @param changed when it was saved so, in the microseconds of the database */
    public record Version(Credential credential, Instant changed) {}

    /** @param previous accepted until then; null if there is none */
    private record Known(
            Entry entry, Credential credential, byte[] sealed, Credential previous, Instant previousUntil) {}

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Logger log = LoggerFactory.getLogger(CredentialStore.class);

    private final CredentialMapper mapper;
    private final Seal seal;
    private final InstantSource clock;
    private final ApplicationEventPublisher events;
    private final ClusterEvents cluster;

    /** Table and memory change together: else what is read of the table could undo what was saved meanwhile. */
    private final ReentrantLock changing = new ReentrantLock();

    private final Map<String, Known> known = new ConcurrentHashMap<>();

    CredentialStore(
            CredentialMapper mapper,
            HoltraSettings settings,
            InstantSource clock,
            ApplicationEventPublisher events,
            ClusterEvents cluster)
            throws java.io.IOException {
        SecureRandom random = new SecureRandom();
        this.mapper = mapper;
        this.seal = new Seal(KeyFile.readOrMake(settings.keyFile(), random), random);
        this.clock = clock;
        this.events = events;
        this.cluster = cluster;
    }

    public void load() {
        for (CredentialMapper.Row row : mapper.all()) {
            load(row);
        }
    }

    /** Seals with the first key of the key file what was sealed with another, so that the other can be taken out of it. */
    public void sealAnew() {
        boolean asRead;
        do {
            asRead = true;
            for (CredentialMapper.Row row : mapper.all()) {
                boolean old = seal.isOld(row.name(), row.sealed())
                        || row.previous() != null && seal.isOld(row.name(), row.previous());
                // Another node may have saved it meanwhile.
                asRead &= !old || sealAnew(row);
            }
        } while (!asRead);
    }

    private boolean sealAnew(CredentialMapper.Row row) {
        CredentialMapper.Row anew = new CredentialMapper.Row(
                row.name(),
                row.form(),
                resealed(row.name(), row.sealed()),
                row.changed(),
                row.changedBy(),
                row.previous() == null ? null : resealed(row.name(), row.previous()),
                row.previousUntil());
        if (mapper.reseal(anew, row.sealed()) == 0) {
            return false;
        }
        load(anew);
        log.info("Credential {} is sealed with the first key of the key file now", row.name());
        return true;
    }

    private byte[] resealed(String name, byte[] sealed) {
        return seal.seal(name, seal.open(name, sealed));
    }

    private void load(CredentialMapper.Row row) {
        Credential previous = row.previous() == null ? null : opened(row.name(), row.previous());
        known.put(
                row.name(),
                new Known(entry(row), opened(row.name(), row.sealed()), row.sealed(), previous, row.previousUntil()));
    }

    /** Another node changed a credential. */
    @EventListener
    void on(ClusterEvent event) {
        if (!event.is(ClusterEvent.Topic.CREDENTIAL)) {
            return;
        }
        reload().forEach(name -> events.publishEvent(new CredentialChanged(name)));
    }

    /** The names of those that have changed. */
    private List<String> reload() {
        return changing(() -> {
            Map<String, Known> before = Map.copyOf(known);
            List<CredentialMapper.Row> rows = mapper.all();
            rows.forEach(this::load);
            Set<String> there = rows.stream().map(CredentialMapper.Row::name).collect(Collectors.toSet());
            known.keySet().retainAll(there);
            Set<String> names = new HashSet<>(before.keySet());
            names.addAll(there);
            return names.stream()
                    .filter(name -> changed(before.get(name), known.get(name)))
                    .toList();
        });
    }

    private <T> T changing(Supplier<T> change) {
        changing.lock();
        try {
            return change.get();
        } finally {
            changing.unlock();
        }
    }

    private static boolean changed(Known before, Known now) {
        return before == null || now == null || !Arrays.equals(before.sealed, now.sealed);
    }

    public Optional<Credential> find(String name) {
        return Optional.ofNullable(name).map(known::get).map(Known::credential);
    }

    public Optional<Version> version(String name) {
        return Optional.ofNullable(name).map(known::get).map(one -> new Version(one.credential, one.entry.changed));
    }

    /**
     * A credential as others keep it.
     *
     * @param name that it is bound to
     */
    public byte[] sealed(String name, Credential credential) {
        return seal.seal(name, JSON.writerFor(Credential.class).writeValueAsBytes(credential));
    }

    /** @throws IllegalStateException if it was sealed under another name or with a key that is gone */
    public Credential opened(String name, byte[] sealed) {
        return JSON.readValue(seal.open(name, sealed), Credential.class);
    }

    /** Whether it was sealed with a key that is no longer the first of the key file. */
    public boolean isSealedWithOldKey(String name, byte[] sealed) {
        return seal.isOld(name, sealed);
    }

    /** What senders may be checked by: the credential, and for a while after a rotation the one before. */
    public List<Credential> accepted(String name) {
        Known one = name == null ? null : known.get(name);
        if (one == null) {
            return List.of();
        }
        return one.previous != null && clock.instant().isBefore(one.previousUntil)
                ? List.of(one.credential, one.previous)
                : List.of(one.credential);
    }

    /**
     * The credential before a rotation, once it is accepted no more.
     *
     * @param until it was accepted
     */
    public record Retired(Credential credential, Instant until) {}

    /** Empty if there was none, or it is accepted still. */
    public Optional<Retired> retired(String name) {
        Known one = name == null ? null : known.get(name);
        return one == null || one.previous == null || clock.instant().isBefore(one.previousUntil)
                ? Optional.empty()
                : Optional.of(new Retired(one.previous, one.previousUntil));
    }

    public List<Entry> all() {
        return known.values().stream()
                .map(Known::entry)
                .sorted(Comparator.comparing(Entry::name))
                .toList();
    }

    /** The form of each, by name. */
    public Map<String, String> forms() {
        return all().stream().collect(Collectors.toMap(Entry::name, Entry::form));
    }

    /** Replaces a credential whose predecessor, if there is one, is accepted until then. */
    public void rotate(String name, Credential credential, Instant until, String by) {
        save(name, credential, by, known.get(name), until);
    }

    public void save(String name, Credential credential, String by) {
        save(name, credential, by, null, null);
    }

    /** What a credential is good for changed, though nobody saved it: outlets that use it try again at once. */
    public void touched(String name) {
        events.publishEvent(new CredentialTouched(name));
    }

    private void save(String name, Credential credential, String by, Known before, Instant until) {
        CredentialMapper.Row row = new CredentialMapper.Row(
                name,
                credential.form(),
                sealed(name, credential),
                clock.instant().truncatedTo(ChronoUnit.MICROS),
                by,
                before == null ? null : before.sealed,
                before == null ? null : until);
        changing(() -> {
            mapper.save(row);
            return known.put(
                    name,
                    new Known(
                            entry(row),
                            credential,
                            row.sealed(),
                            before == null ? null : before.credential,
                            row.previousUntil()));
        });
        cluster.publish(ClusterEvent.Topic.CREDENTIAL, name);
        events.publishEvent(new CredentialChanged(name));
    }

    /** @return whether there was one */
    public boolean remove(String name) {
        boolean removed = changing(() -> {
            boolean gone = mapper.remove(name) > 0;
            known.remove(name);
            return gone;
        });
        cluster.publish(ClusterEvent.Topic.CREDENTIAL, name);
        events.publishEvent(new CredentialChanged(name));
        return removed;
    }

    private static Entry entry(CredentialMapper.Row row) {
        return new Entry(row.name(), row.form(), row.changed(), row.changedBy());
    }
}
