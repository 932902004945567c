package org.holtra.service.journal;

import static org.holtra.service.database.Columns.column;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.journal.sql.IdempotencyKeyMapper;
import org.springframework.stereotype.Component;

/**
 * The idempotency keys of arrivals that were kept by any node. A request that is sent again, by its sender or by somebody
 * who overheard it, is kept as a duplicate of the first.
 */
@Component
public class IdempotencyKeys {

    /** Longer than any signature is good, and than a node with a late clock needs. */
    private static final Duration KEPT = Duration.ofMinutes(30);

    private final IdempotencyKeyMapper mapper;
    private final InstantSource clock;

    IdempotencyKeys(IdempotencyKeyMapper mapper, InstantSource clock) {
        this.mapper = mapper;
        this.clock = clock;
    }

    /**
     * Notes the keys of messages that are about to be kept, within the caller's transaction. One that another transaction is
     * noting is waited for.
     *
     * @return of those whose key was there already, the message it was there for
     */
    Map<UUID, UUID> note(List<StoredMessage> messages) {
        List<StoredMessage> keyed = messages.stream()
                .filter(message -> message.arrival().idempotencyKey() != null)
                .toList();
        if (keyed.isEmpty()) {
            return Map.of();
        }
        String[] inlets = column(keyed, message -> message.arrival().inlet(), String[]::new);
        String[] keys = column(keyed, message -> message.arrival().idempotencyKey(), String[]::new);
        UUID[] ids = column(keyed, message -> message.id().value(), UUID[]::new);
        Instant[] received = column(keyed, message -> message.id().received(), Instant[]::new);
        mapper.insert(inlets, keys, ids, received);
        Map<UUID, UUID> duplicates = new HashMap<>();
        mapper.others(inlets, keys, ids).forEach(one -> duplicates.put(one.id(), one.duplicateOf()));
        return duplicates;
    }

    /** Removes those that are older than any request that would still be taken. */
    public void removeOld() {
        mapper.remove(clock.instant().minus(KEPT));
    }
}
