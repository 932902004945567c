package org.holtra.service.reading;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;

/** A value, and when it was measured. */
public record Measured(Instant at, double value) {

    private static final int MOST_DRAWN = 1_500;

    /** In the order they were measured, thinned where there are too many to draw. */
    public static List<Measured> drawn(List<Measured> all) {
        List<Measured> values =
                all.stream().sorted(Comparator.comparing(Measured::at)).toList();
        int each = values.size() / MOST_DRAWN + 1;
        List<Measured> kept = new ArrayList<>();
        for (int i = 0; i < values.size(); i += each) {
            kept.add(values.get(i));
        }
        return kept;
    }
}
