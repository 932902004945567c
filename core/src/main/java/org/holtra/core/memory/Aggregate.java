package org.holtra.core.memory;

/**
 * What is remembered of a field's values within an interval.
 *
 * @param last the newest value, or the first where that is chosen
 * @param sum of the numbers, and {@code compensation} what rounding took from it (Neumaier's summation)
 */
public record Aggregate(Object last, long count, Double min, Double max, double sum, double compensation) {

    static Aggregate first(Object value) {
        Double number = value instanceof Number any ? (Double) any.doubleValue() : null;
        return new Aggregate(value, 1, number, number, number == null ? 0 : number, 0);
    }

    Aggregate and(Object value, Choice choice) {
        Object kept = choice == Choice.FIRST ? last : value;
        if (!(value instanceof Number any)) {
            return new Aggregate(kept, count + 1, min, max, sum, compensation);
        }
        double number = any.doubleValue();
        double next = sum + number;
        double lost = Math.abs(sum) >= Math.abs(number) ? sum - next + number : number - next + sum;
        return new Aggregate(
                kept,
                count + 1,
                min == null ? number : Math.min(min, number),
                max == null ? number : Math.max(max, number),
                next,
                compensation + lost);
    }

    /** Null if there is no such thing: a mean of texts. */
    Object chosen(Choice choice) {
        return switch (choice) {
            case FIRST, LAST -> last;
            case COUNT -> count;
            case MIN -> min;
            case MAX -> max;
            case SUM -> min == null ? null : (Object) (sum + compensation);
            case MEAN -> min == null ? null : (Object) ((sum + compensation) / count);
        };
    }
}
