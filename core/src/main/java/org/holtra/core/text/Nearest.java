package org.holtra.core.text;

import java.util.Collection;
import java.util.Comparator;
import java.util.Optional;

/** The known name a mistyped one was most likely meant to be. */
public final class Nearest {

    private Nearest() {}

    /** Empty if none is near: more than a third of the letters would have to change. */
    public static Optional<String> of(String name, Collection<String> known) {
        return known.stream()
                .filter(candidate ->
                        distance(name, candidate) <= Math.max(1, Math.max(name.length(), candidate.length()) / 3))
                .min(Comparator.comparingInt(candidate -> distance(name, candidate)));
    }

    /** Letters put in, taken out, changed, or swapped with their neighbour (optimal string alignment). */
    public static int distance(String a, String b) {
        int[][] d = new int[a.length() + 1][b.length() + 1];
        for (int i = 0; i <= a.length(); i++) {
            for (int j = 0; j <= b.length(); j++) {
                if (i == 0 || j == 0) {
                    d[i][j] = i + j;
                    continue;
                }
                int same = a.charAt(i - 1) == b.charAt(j - 1) ? 0 : 1;
                d[i][j] = Math.min(d[i - 1][j - 1] + same, Math.min(d[i - 1][j], d[i][j - 1]) + 1);
                if (i > 1 && j > 1 && a.charAt(i - 1) == b.charAt(j - 2) && a.charAt(i - 2) == b.charAt(j - 1)) {
                    d[i][j] = Math.min(d[i][j], d[i - 2][j - 2] + 1);
                }
            }
        }
        return d[a.length()][b.length()];
    }
}
