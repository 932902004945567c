package org.holtra.core.lookout;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.memory.Input;

/**
 * Nothing comes. It goes by when messages came, not by when what they tell was measured.
 *
 * @param after how long nothing must have come; null to go by the key's own rhythm
 */
public record Silence(Duration after) implements Sign {

    @Override
    public Map<String, Object> form() {
        return Map.of("sign", "silent", "after", after == null ? "rhythm" : after.toString());
    }

    private static final int PAUSES_KEPT = 8;
    /** Who starts anew often says several things at once: of fewer pauses most may be short. */
    private static final int PAUSES_NEEDED = 5;

    private static final int TIMES = 3;
    private static final Duration LEAST = Duration.ofMinutes(1);

    @Override
    public Seen after(Seen before, Input input) {
        Instant heard = before.heard();
        if (heard == null) {
            return new Seen(List.of(), input.received(), List.of());
        }
        if (!input.received().isAfter(heard)) {
            return before;
        }
        List<Long> pauses = new ArrayList<>(before.pauses());
        pauses.add(Duration.between(heard, input.received()).toSeconds());
        return new Seen(
                List.of(),
                input.received(),
                List.copyOf(pauses.subList(Math.max(0, pauses.size() - PAUSES_KEPT), pauses.size())));
    }

    /** As if the key had been heard of then, since nobody listened before. */
    Seen excused(Seen before, Instant until) {
        return before.heard() == null || !until.isAfter(before.heard())
                ? before
                : new Seen(before.samples(), until, before.pauses());
    }

    @Override
    public Optional<Found> find(Seen seen, Input input) {
        return Optional.of(new Found(Shows.OFF, null, "it is heard of again"));
    }

    @Override
    public Optional<Instant> due(Seen seen) {
        return seen.heard() == null ? Optional.empty() : span(seen).map(seen.heard()::plus);
    }

    /** Three times the second longest of the latest pauses, at least a minute; unknown while it was heard too seldom. */
    private Optional<Duration> span(Seen seen) {
        if (after != null) {
            return Optional.of(after);
        }
        if (seen.pauses().size() < PAUSES_NEEDED) {
            return Optional.empty();
        }
        List<Long> sorted = seen.pauses().stream().sorted().toList();
        Duration span = Duration.ofSeconds(TIMES * sorted.get(sorted.size() - 2));
        return Optional.of(span.compareTo(LEAST) < 0 ? LEAST : span);
    }

    /** What is to be read once it is there. */
    Found there(Seen seen) {
        return new Found(
                Shows.ON, null, "nothing has come for " + Sign.words(span(seen).orElse(LEAST)));
    }

    @Override
    public boolean takesLate() {
        return true;
    }
}
