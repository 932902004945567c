package org.holtra.service.access;

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
    private static final Duration USE_IS_WRITTEN_EVERY = Duration.ofMinutes(1);

    private final AccountMapper mapper;
    private final Secrets secrets;
    private final InstantSource clock;
    private final Map<String, Instant> lastWritten = new ConcurrentHashMap<>();

    ApiKeys(AccountMapper mapper, Secrets secrets, InstantSource clock) {
        this.mapper = mapper;
        this.secrets = secrets;
        this.clock = clock;
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
        return mapper.removeKey(name) > 0;
    }

    /** The name of a key, if it is one. */
    Optional<String> nameOf(String key) {
        if (!key.startsWith(PREFIX)) {
            return Optional.empty();
        }
        Optional<String> name = mapper.keyByHash(hash(key));
        name.ifPresent(this::used);
        return name;
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
