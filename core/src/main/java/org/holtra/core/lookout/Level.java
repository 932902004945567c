package org.holtra.core.lookout;

import java.util.Map;
import java.util.Optional;
import org.holtra.core.memory.Figure;
import org.holtra.core.memory.Input;

/**
 * A value at or beyond a level, until it comes back to another.
 *
 * @param above whether it is there above the level; else below
 * @param on from which value on it is there
 * @param off from which value on it is there no more; the same as {@code on} if there is nothing between
 */
public record Level(boolean above, double on, double off) implements Sign {

    @Override
    public Map<String, Object> form() {
        return Map.of("sign", above ? "above" : "below", "on", on, "off", off);
    }

    @Override
    public Seen after(Seen before, Input input) {
        return before;
    }

    @Override
    public Optional<Found> find(Seen seen, Input input) {
        return Optional.ofNullable(input.number(Watch.VALUE)).map(value -> {
            Shows shows = isOn(value) ? Shows.ON : isOff(value) ? Shows.OFF : Shows.BETWEEN;
            return new Found(
                    shows,
                    value,
                    switch (shows) {
                        case ON -> Figure.of(value) + " is at or " + (above ? "above " : "below ") + Figure.of(on);
                        case BETWEEN -> Figure.of(value) + " is not yet back at " + Figure.of(off);
                        case OFF ->
                            Figure.of(value)
                                    + (on == off ? " is " : " is at or ")
                                    + (above ? "below " : "above ")
                                    + Figure.of(off);
                    });
        });
    }

    private boolean isOn(double value) {
        return above ? value >= on : value <= on;
    }

    private boolean isOff(double value) {
        return on == off || (above ? value <= off : value >= off);
    }

    @Override
    public double further(double one, double other) {
        return above ? Math.max(one, other) : Math.min(one, other);
    }
}
