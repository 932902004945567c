package org.holtra.service.kinds.http;

import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.function.Supplier;
import org.holtra.service.intake.Receipt;

/**
 * The ids of signed requests that were taken, for as long as their signature is good: a request that comes again within that
 * time, from its sender or from somebody who overheard it, is the same message. Each node remembers its own, so that the
 * answer names the first message at once; what another node took, or this one before it was started anew, the journal finds.
 */
final class SignedIds {

    /** A signature is good for so long before and after its timestamp. */
    private static final Duration REMEMBERED = WebhookSignature.TOLERANCE.multipliedBy(2);

    private static final int MOST = 100_000;

    private record Taken(Instant at, CompletableFuture<Receipt> receipt) {}

    private final Map<String, Taken> all = new LinkedHashMap<>();

    /**
     * What becomes of a request.
     *
     * @param first whether it brought the message; else it brought it again
     */
    record Outcome(CompletableFuture<Receipt> receipt, boolean first) {}

    /**
     * Has a request taken, unless one of the same id was taken before; a failure is forgotten.
     *
     * @param taking what takes it; may throw
     */
    Outcome take(String inlet, String id, Instant now, Supplier<CompletableFuture<Receipt>> taking) {
        String key = inlet + ' ' + id;
        CompletableFuture<Receipt> promise = new CompletableFuture<>();
        promise.whenComplete((taken, failure) -> {
            if (failure != null) {
                forget(key);
            }
        });
        synchronized (this) {
            forgetOld(now);
            Taken before = all.putIfAbsent(key, new Taken(now, promise));
            if (before != null) {
                return new Outcome(before.receipt, false);
            }
        }
        try {
            taking.get().whenComplete((receipt, failure) -> {
                if (failure == null) {
                    promise.complete(receipt);
                } else {
                    promise.completeExceptionally(failure);
                }
            });
        } catch (RuntimeException e) {
            promise.completeExceptionally(e);
            throw e;
        }
        return new Outcome(promise, true);
    }

    private synchronized void forget(String key) {
        all.remove(key);
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
