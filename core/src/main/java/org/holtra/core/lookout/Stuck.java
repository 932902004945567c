package org.holtra.core.lookout;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.memory.Figure;
import org.holtra.core.memory.Input;

/**
 * A value that stands still though messages come.
 *
 * @param band by how much it may move and still stand
 * @param after how long it must have stood
 */
public record Stuck(double band, Duration after) implements Sign {

    @Override
    public Map<String, Object> form() {
        return Map.of("sign", "stuck", "band", band, "after", after.toString());
    }

    @Override
    public Seen after(Seen before, Input input) {
        Double value = input.number(Watch.VALUE);
        if (value == null
                || !before.samples().isEmpty()
                        && Math.abs(before.samples().getFirst().value() - value) <= band) {
            return before;
        }
        return before.with(List.of(new Sample(input.at(), value)));
    }

    @Override
    public Optional<Found> find(Seen seen, Input input) {
        if (input.number(Watch.VALUE) == null) {
            return Optional.empty();
        }
        Sample since = seen.samples().getFirst();
        Duration stood = Duration.between(since.at(), input.at());
        boolean on = stood.compareTo(after) >= 0;
        return Optional.of(new Found(
                on ? Shows.ON : Shows.OFF,
                input.number(Watch.VALUE),
                on
                        ? Figure.of(since.value()) + " has not moved for " + Sign.words(stood)
                        : "it moved to " + Figure.of(since.value())));
    }
}
