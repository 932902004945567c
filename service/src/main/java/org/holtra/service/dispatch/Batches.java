package org.holtra.service.dispatch;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.holtra.core.delivery.Batch;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.core.delivery.Verdict;
import org.holtra.service.journal.Settlement;
import org.springframework.stereotype.Component;

/**
 * Sends several deliveries in one request, where an outlet's destination takes that. One that is refused as a whole is
 * halved until it is known which of its messages the destination does not take.
 */
@Component
class Batches {

    /** What becomes of the deliveries, as it becomes known. */
    interface Ledger {
        void concluded(Task task, Attempter.Result result);

        /** An attempt was made, and another follows. */
        void tried(Task task, Settlement settlement);

        /** Whether another request may be made. */
        boolean goesOn();
    }

    private final Attempter attempter;
    private final InstantSource clock;

    Batches(Attempter attempter, InstantSource clock) {
        this.attempter = attempter;
        this.clock = clock;
    }

    /** Gives those that were not tried, since nothing more may be sent now. */
    List<Task> attempt(List<Task> tasks, Sink sink, OutletHealth health, Batch batch, Ledger ledger) {
        List<Attempter.Ready> ready = new ArrayList<>();
        Sending sending = new Sending(sink, health, ledger);
        for (Task task : tasks) {
            Attempter.Readied readied = attempter.ready(task);
            Optional<String> whyNot = readied.ready() == null
                    ? Optional.empty()
                    : sink.whyNotTogether(readied.ready().content());
            if (readied.ready() == null) {
                sending.conclude(task, readied.not());
            } else if (whyNot.isPresent()) {
                ledger.concluded(task, attempter.dead(task, "could not be shaped", whyNot.get()));
            } else {
                ready.add(readied.ready());
            }
        }
        new Requests(batch).of(ready).forEach(sending::send);
        return sending.untried;
    }

    /** The same deliveries in the same order have the same key. */
    private static String key(List<String> keys) {
        if (keys.size() == 1) {
            return keys.getFirst();
        }
        try {
            byte[] digest = MessageDigest.getInstance("SHA-256")
                    .digest(String.join("\n", keys).getBytes(StandardCharsets.UTF_8));
            return "batch." + HexFormat.of().formatHex(digest, 0, 16);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }

    /** The requests that come of one handful of deliveries. */
    private final class Sending {

        private final Sink sink;
        private final OutletHealth health;
        private final Ledger ledger;
        private final List<Task> untried = new ArrayList<>();
        /** Of which one is to be tried again. */
        private final Set<Task.Order> waiting = new HashSet<>();

        private boolean stopped;

        Sending(Sink sink, OutletHealth health, Ledger ledger) {
            this.sink = sink;
            this.health = health;
            this.ledger = ledger;
        }

        void send(List<Attempter.Ready> together) {
            if (stopped || !ledger.goesOn()) {
                together.forEach(one -> untried.add(one.task()));
                return;
            }
            List<Attempter.Ready> free =
                    together.stream().filter(one -> !waits(one.task())).toList();
            if (free.size() < together.size()) {
                together.stream().filter(one -> waits(one.task())).forEach(one -> untried.add(one.task()));
                if (!free.isEmpty()) {
                    send(free);
                }
                return;
            }
            List<String> keys = together.stream()
                    .map(one -> one.task().delivery().idempotencyKey())
                    .toList();
            String key = key(keys);
            Instant start = clock.instant();
            long began = System.nanoTime();
            Attempted attempted = sink.attempt(request(together, key));
            Attempter.Taken taken = new Attempter.Taken(start, (System.nanoTime() - began) / 1_000, health);
            if (attempted.parts().isEmpty() && together.size() > 1 && isAboutOne(attempted.verdict())) {
                halve(together, attempted, taken, key);
                return;
            }
            for (int i = 0; i < together.size(); i++) {
                FrozenContent.Place place = new FrozenContent.Place(key, together.size(), i + 1);
                Attempted its = attempted.parts().isEmpty()
                        ? attempted
                        : attempted.parts().get(i);
                conclude(together.get(i).task(), attempter.concluded(together.get(i), its, taken, place));
            }
            stopped = attempted.verdict() instanceof Verdict.TryLater
                    || attempted.verdict() instanceof Verdict.OutletBlocked;
        }

        void conclude(Task task, Attempter.Result result) {
            if (result.settlement().fate() == Settlement.Kind.WAITING) {
                task.order().ifPresent(waiting::add);
            }
            ledger.concluded(task, result);
        }

        /** Whether one before it of its order key is to be tried again. */
        private boolean waits(Task task) {
            return task.order().filter(waiting::contains).isPresent();
        }

        private void halve(List<Attempter.Ready> together, Attempted attempted, Attempter.Taken taken, String key) {
            List<Attempter.Ready> again = new ArrayList<>();
            for (int i = 0; i < together.size(); i++) {
                FrozenContent.Place place = new FrozenContent.Place(key, together.size(), i + 1);
                ledger.tried(together.get(i).task(), attempter.tried(together.get(i), attempted, taken, place));
                again.add(together.get(i).again());
            }
            int half = (again.size() + 1) / 2;
            send(again.subList(0, half));
            send(again.subList(half, again.size()));
        }

        private static boolean isAboutOne(Verdict verdict) {
            return verdict instanceof Verdict.Refused
                    || verdict instanceof Verdict.DeviceHeld
                    || verdict instanceof Verdict.DeviceUnknown;
        }

        private static Request request(List<Attempter.Ready> together, String key) {
            Request first = together.getFirst().request();
            return new Request(
                    together.stream().map(Attempter.Ready::part).toList(),
                    true,
                    key,
                    first.traceparent(),
                    together.stream().mapToInt(Attempter.Ready::number).min().orElseThrow(),
                    first.marks(),
                    first.presented());
        }
    }
}
