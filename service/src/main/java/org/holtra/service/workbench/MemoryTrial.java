package org.holtra.service.workbench;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.holtra.core.expression.Scope;
import org.holtra.core.memory.Step;
import org.holtra.core.message.MessageId;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Past;
import org.springframework.stereotype.Component;

/** What becomes of one message in a lane with memory, among those that came in the day before it and since. */
@Component
class MemoryTrial {

    private static final Duration BEFORE = Duration.ofDays(1);
    /** What is due is done so many times at most, to see what becomes of a message that waits still. */
    private static final int MOST_STEPS = 100;

    /**
     * @param words what becomes of it, in a sentence
     * @param sent what goes on: itself, what it is part of, or what it is split into; empty if nothing does
     * @param late whether it goes on as it is because it comes too late
     */
    record Becomes(String words, List<StoredMessage> sent, boolean late) {}

    private final Past past;
    private final InstantSource clock;

    MemoryTrial(Past past, InstantSource clock) {
        this.past = past;
        this.clock = clock;
    }

    /** @param scope of the message, which the lane takes */
    Becomes of(Lane lane, Setup setup, StoredMessage subject, Scope scope) {
        Instant now = clock.instant();
        Watched watched = new Watched(subject);
        MemoryRun run = new MemoryRun(lane, setup.revision(), watched);
        String key = lane.memory().keyOf(scope);
        boolean came = false;
        for (StoredMessage one : around(lane, subject, now)) {
            if (one.id().equals(subject.id())) {
                came = true;
                run.take(subject, scope);
            } else {
                past.scope(one, setup).filter(lane::takes).ifPresent(its -> run.take(one, its));
            }
        }
        if (!came) {
            run.take(subject, scope);
        }
        run.until(now);
        Instant at = null;
        for (int step = 0; !watched.isKnown() && step < MOST_STEPS; step++) {
            Optional<Instant> due = run.due(key);
            if (due.isEmpty()) {
                break;
            }
            at = due.get();
            run.until(at);
        }
        return watched.becomes(at);
    }

    private List<StoredMessage> around(Lane lane, StoredMessage subject, Instant now) {
        String device = lane.memory().key() == null ? subject.device() : null;
        return past.of(new Past.Wanted(
                        lane.inlets(), device, subject.id().received().minus(BEFORE), now.plusMillis(1)))
                .messages();
    }

    /** Follows one message. */
    private static final class Watched implements MemoryRun.Listener {

        private final StoredMessage subject;
        private final List<StoredMessage> split = new ArrayList<>();
        private Step.Fate fate;
        private MessageId into;
        private StoredMessage whole;

        Watched(StoredMessage subject) {
            this.subject = subject;
        }

        @Override
        public void fate(String key, Step.Fate told, MessageId partOf) {
            if (told.message().equals(subject.id().value())) {
                fate = told;
                into = partOf;
            }
        }

        @Override
        public void made(String key, StoredMessage message, Map<String, Object> fields) {
            if (subject.id().value().equals(message.duplicateOf())) {
                split.add(message);
            } else if (message.id().equals(into)) {
                whole = message;
            }
        }

        boolean isKnown() {
            return !split.isEmpty() || whole != null || fate != null && into == null;
        }

        /** @param at when that happens if nothing more comes; null if it happened */
        Becomes becomes(Instant at) {
            String when = at == null ? "" : ", at " + at + " if nothing more comes";
            if (!split.isEmpty()) {
                return new Becomes("it is split into " + split.size(), List.copyOf(split), false);
            }
            return switch (fate) {
                case Step.Fate.HeldBack(UUID message, String reason) ->
                    new Becomes("it is held back: " + reason, List.of(), false);
                case Step.Fate.Passed(UUID message, boolean late) ->
                    new Becomes(
                            late ? "it comes late, and goes on as it is" : "it goes on as it is",
                            List.of(subject),
                            late);
                case Step.Fate.Merged merged
                when whole != null ->
                    new Becomes(
                            "it becomes part of a message"
                                    + (whole.reason() == null ? "" : " " + whole.reason())
                                    + when,
                            List.of(whole),
                            false);
                case null, default ->
                    new Becomes("it stays in the memory until others come that it waits for", List.of(), false);
            };
        }
    }
}
