package org.holtra.core.setup;

import java.util.Collection;
import java.util.Comparator;
import java.util.Optional;

/** The known name a mistyped one was most likely meant to be. */
final class Nearest {

    private Nearest() {}

    /** Empty if none is near: more than a third of the letters would have to change. */
    static Optional<String> of(String name, Collection<String> known) {
        return known.stream()
                .filter(candidate ->
                        distance(name, candidate) <= Math.max(1, Math.max(name.length(), candidate.length()) / 3))
                .min(Comparator.comparingInt(candidate -> distance(name, candidate)));
    }

    /** Levenshtein's distance: letters put in, taken out or changed. */
    private static int distance(String a, String b) {
        int[] row = new int[b.length() + 1];
        for (int j = 0; j <= b.length(); j++) {
            row[j] = j;
        }
        for (int i = 1; i <= a.length(); i++) {
            int diagonal = row[0];
            row[0] = i;
            for (int j = 1; j <= b.length(); j++) {
                int change = diagonal + (a.charAt(i - 1) == b.charAt(j - 1) ? 0 : 1);
                diagonal = row[j];
                row[j] = Math.min(change, Math.min(row[j], row[j - 1]) + 1);
            }
        }
        return row[b.length()];
    }
}
