package org.holtra.service.access;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import org.holtra.service.journal.Journal;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;

/**
 * Keys for programs. Only a hash is stored; a key is 256 random bits, so a plain SHA-256 of it cannot be guessed back.
 */
@Component
public class ApiKeys {

    /** What may be shown of one. */
    public record Entry(String name, Instant created, String createdBy, Instant lastUsed) {}

    private static final String PREFIX = "holtra_";
    private static final int KEY_BYTES = 32;

    /** A key that was removed through another node meanwhile is not let in for longer. */
    private static final Duration GOOD_WITHOUT_DATABASE = Duration.ofHours(1);

    private static final Duration USE_IS_WRITTEN_EVERY = Duration.ofMinutes(1);

    private final AccountMapper mapper;
    private final Secrets secrets;
    private final InstantSource clock;
    private final Journal journal;
    private final Map<String, Instant> lastWritten = new ConcurrentHashMap<>();
    private final Map<ByteBuffer, Met> met = new ConcurrentHashMap<>();

    /** A key that was checked, and when. */
    private record Met(String name, Instant at) {}

    ApiKeys(AccountMapper mapper, Secrets secrets, InstantSource clock, Journal journal) {
        this.mapper = mapper;
        this.secrets = secrets;
        this.clock = clock;
        this.journal = journal;
    }

    /** The key, told this once; empty if there is one of this name already. */
    public Optional<String> make(String name, String by) {
        String key = PREFIX + secrets.next(KEY_BYTES);
        return mapper.addKey(name, hash(key), clock.instant(), by) == 0 ? Optional.empty() : Optional.of(key);
    }

    public List<Entry> all() {
        return mapper.keys();
    }

    public boolean remove(String name) {
        boolean removed = mapper.removeKey(name) > 0;
        // Afterwards, or a check that is under way could note it as good once more.
        met.values().removeIf(one -> one.name.equals(name));
        return removed;
    }

    /**
     * The name of a key, if it is one. While the database is away, one that was checked a short time before is let in.
     *
     * @throws DataAccessException if it cannot be checked now
     */
    Optional<String> nameOf(String key) {
        if (!key.startsWith(PREFIX)) {
            return Optional.empty();
        }
        byte[] hash = hash(key);
        Optional<String> before = metBefore(hash);
        if (before.isPresent() && journal.isAway()) {
            return before;
        }
        try {
            Optional<String> name = mapper.keyByHash(hash);
            name.ifPresentOrElse(
                    one -> met.put(ByteBuffer.wrap(hash), new Met(one, clock.instant())),
                    () -> met.remove(ByteBuffer.wrap(hash)));
            name.ifPresent(this::used);
            return name;
        } catch (DataAccessException e) {
            if (before.isEmpty()) {
                throw e;
            }
            return before;
        }
    }

    private Optional<String> metBefore(byte[] hash) {
        return Optional.ofNullable(met.get(ByteBuffer.wrap(hash)))
                .filter(one -> one.at.plus(GOOD_WITHOUT_DATABASE).isAfter(clock.instant()))
                .map(Met::name);
    }

    private void used(String name) {
        Instant now = clock.instant();
        Instant written = lastWritten.get(name);
        if (written == null || written.plus(USE_IS_WRITTEN_EVERY).isBefore(now)) {
            lastWritten.put(name, now);
            mapper.used(name, now);
        }
    }

    private static byte[] hash(String key) {
        try {
            return MessageDigest.getInstance("SHA-256").digest(key.getBytes(StandardCharsets.UTF_8));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java platform has SHA-256", e);
        }
    }
}
