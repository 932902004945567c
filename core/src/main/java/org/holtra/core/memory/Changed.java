package org.holtra.core.memory;

import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;

/**
 * Passes a message on only when it tells something new.
 *
 * @param bands by how much a field must move from what was passed on last, by field
 * @param crossings values that a field must cross, by field
 * @param longest after so long the next is passed on whatever it tells; null for never
 */
public record Changed(Map<String, Band> bands, Map<String, Double> crossings, Duration longest)
        implements Operation<Changed.State> {

    private static final Duration KEPT = Duration.ofDays(90);

    /** @param perCent whether the amount is a share of the value that was passed on last, in per cent */
    public record Band(double amount, boolean perCent) {

        boolean isLeft(double before, double now) {
            double bound = perCent ? Math.abs(before) * amount / 100 : amount;
            return Math.abs(now - before) > bound;
        }

        private String words() {
            return Figure.of(amount) + (perCent ? " %" : "");
        }
    }

    /**
     * @param passed the fields of the message that was passed on last; null before the first
     * @param at its event time
     * @param above on which side of its crossing each field was last
     * @param decided the event time of the newest message
     */
    public record State(Map<String, Object> passed, Instant at, Map<String, Boolean> above, Instant decided) {}

    @Override
    public State empty() {
        return new State(null, null, Map.of(), Instant.MIN);
    }

    @Override
    public Class<State> stateType() {
        return State.class;
    }

    @Override
    public Instant decided(State state) {
        return state.decided;
    }

    @Override
    public Step<State> take(State state, Input input) {
        Map<String, Boolean> above = sides(state, input);
        if (isNews(state, input, above)) {
            Map<String, Object> passed = new LinkedHashMap<>();
            bands.keySet().forEach(field -> {
                Object value = input.fields().get(field);
                Object before = state.passed == null ? null : state.passed.get(field);
                if (value != null || before != null) {
                    passed.put(field, value == null ? before : value);
                }
            });
            return Step.of(
                    new State(passed, input.at(), above, input.at()), new Step.Fate.Passed(input.message(), false));
        }
        return Step.of(
                new State(state.passed, state.at, above, input.at()),
                new Step.Fate.HeldBack(input.message(), reason(state, input)));
    }

    private Map<String, Boolean> sides(State state, Input input) {
        Map<String, Boolean> above = new LinkedHashMap<>(state.above);
        crossings.forEach((field, bound) -> {
            Double value = input.number(field);
            if (value != null) {
                above.put(field, value >= bound);
            }
        });
        return above;
    }

    private boolean isNews(State state, Input input, Map<String, Boolean> above) {
        return state.passed == null
                || longest != null && !input.at().isBefore(state.at.plus(longest))
                || !state.above.isEmpty()
                        && state.above.entrySet().stream()
                                .anyMatch(one -> !one.getValue().equals(above.get(one.getKey())))
                || bands.entrySet().stream()
                        .anyMatch(one -> hasMoved(
                                state.passed.get(one.getKey()), input.fields().get(one.getKey()), one.getValue()));
    }

    private static boolean hasMoved(Object before, Object now, Band band) {
        if (now == null) {
            return false;
        }
        return before instanceof Number from && now instanceof Number to
                ? band.isLeft(from.doubleValue(), to.doubleValue())
                : !Objects.equals(before, now);
    }

    private String reason(State state, Input input) {
        StringBuilder reason = new StringBuilder("nothing new since ").append(state.at);
        bands.forEach((field, band) -> {
            if (input.fields().get(field) instanceof Number now && state.passed.get(field) instanceof Number before) {
                reason.append("; ")
                        .append(field)
                        .append(" moved by ")
                        .append(Figure.of(Math.abs(now.doubleValue() - before.doubleValue())))
                        .append(", not by more than ")
                        .append(band.words());
            }
        });
        return reason.toString();
    }

    @Override
    public Map<String, Object> form() {
        Map<String, Object> form = new LinkedHashMap<>();
        Map<String, String> amounts = new TreeMap<>();
        bands.forEach((field, band) -> amounts.put(field, band.amount() + (band.perCent() ? "%" : "")));
        form.put("bands", amounts);
        form.put("crossings", new TreeMap<>(crossings));
        form.put("longest", longest);
        return OperationForms.form("changed", form);
    }

    @Override
    public Duration kept() {
        return KEPT;
    }
}
