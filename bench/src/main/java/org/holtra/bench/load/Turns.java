package org.holtra.bench.load;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.function.Supplier;
import java.util.function.ToDoubleFunction;

/**
 * Two things measured in turns, so that a machine that is faster at one time than at another treats both alike. What counts
 * is the turn in the middle, by what the one came to beside the other.
 */
record Turns<T>(T mine, T other, double ratio) {

    /** Odd, so that there is one in the middle. */
    private static final int TURNS = 5;

    static <T> Turns<T> of(Supplier<T> mine, Supplier<T> other, ToDoubleFunction<T> figure) {
        List<Turns<T>> all = new ArrayList<>();
        for (int turn = 0; turn < TURNS; turn++) {
            T one = mine.get();
            T two = other.get();
            all.add(new Turns<>(one, two, figure.applyAsDouble(one) / figure.applyAsDouble(two)));
        }
        all.sort(Comparator.comparingDouble(Turns::ratio));
        return all.get(TURNS / 2);
    }

    /** One thing measured as often, where it cannot be had in turns with another; the one in the middle by its figure. */
    static <T> T middle(Supplier<T> measured, ToDoubleFunction<T> figure) {
        List<T> all = new ArrayList<>();
        for (int turn = 0; turn < TURNS; turn++) {
            all.add(measured.get());
        }
        all.sort(Comparator.comparingDouble(figure));
        return all.get(TURNS / 2);
    }
}
