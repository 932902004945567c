package org.holtra.service.kinds.http;

import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import org.holtra.core.message.MessageId;

/**
 * The ids of signed requests that were taken, for as long as their signature is good: a request that comes again within that
 * time, from its sender or from somebody who overheard it, is the same message. Each node remembers its own.
 */
final class SignedIds {

    /** A signature is good for so long before and after its timestamp. */
    private static final Duration REMEMBERED = WebhookSignature.TOLERANCE.multipliedBy(2);

    private static final int MOST = 100_000;

    private record Taken(Instant at, CompletableFuture<MessageId> message) {}

    private final Map<String, Taken> all = new LinkedHashMap<>();

    /**
     * Notes that a request is being taken; if one of the same id was taken before, gives what becomes of that.
     *
     * @param message what becomes of this one; a failure forgets it
     */
    Optional<CompletableFuture<MessageId>> first(
            String inlet, String id, Instant now, CompletableFuture<MessageId> message) {
        String key = inlet + ' ' + id;
        synchronized (this) {
            forgetOld(now);
            Taken before = all.putIfAbsent(key, new Taken(now, message));
            if (before != null) {
                return Optional.of(before.message);
            }
        }
        message.whenComplete((taken, failure) -> {
            if (failure != null) {
                synchronized (this) {
                    all.remove(key);
                }
            }
        });
        return Optional.empty();
    }

    private void forgetOld(Instant now) {
        var oldest = all.values().iterator();
        while (oldest.hasNext()) {
            boolean old = oldest.next().at.plus(REMEMBERED).isBefore(now);
            if (!old && all.size() < MOST) {
                return;
            }
            oldest.remove();
        }
    }
}
