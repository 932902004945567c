package org.holtra.core.lookout;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.memory.Figure;
import org.holtra.core.memory.Input;

/**
 * A value that rises or falls by so much within so long.
 *
 * @param rises else it falls
 * @param by how much, more than 0
 */
public record Move(boolean rises, double by, Duration within) implements Sign {

    @Override
    public Map<String, Object> form() {
        return Map.of("sign", rises ? "rises" : "falls", "by", by, "within", within.toString());
    }

    /**
     * Keeps of the values within the time only those from which what comes may have moved furthest: none that a later one
     * outdoes. So the first is always the lowest, or where it falls the highest.
     */
    @Override
    public Seen after(Seen before, Input input) {
        Double value = input.number(Watch.VALUE);
        if (value == null) {
            return before;
        }
        Instant from = input.at().minus(within);
        List<Sample> kept = new ArrayList<>(before.samples());
        kept.removeIf(sample -> sample.at().isBefore(from));
        while (!kept.isEmpty() && !(signed(kept.getLast().value()) < signed(value))) {
            kept.removeLast();
        }
        kept.add(new Sample(input.at(), value));
        return before.with(List.copyOf(kept));
    }

    private double signed(double value) {
        return rises ? value : -value;
    }

    @Override
    public Optional<Found> find(Seen seen, Input input) {
        Double value = input.number(Watch.VALUE);
        if (value == null) {
            return Optional.empty();
        }
        Sample from = seen.samples().getFirst();
        double moved = signed(value) - signed(from.value());
        return Optional.of(new Found(
                moved >= by ? Shows.ON : Shows.OFF,
                moved,
                (rises ? "rose" : "fell") + " by " + Figure.of(moved) + " to " + Figure.of(value) + " within "
                        + Sign.words(within)));
    }
}
