package org.holtra.core.memory;

import java.util.Locale;

/** Numbers as a person reads them: six digits that count. */
public final class Figure {

    private Figure() {}

    public static String of(double number) {
        return String.format(Locale.ROOT, "%.6g", number)
                .replaceFirst("(\\.\\d*?)0+($|e)", "$1$2")
                .replaceFirst("\\.($|e)", "$1");
    }
}
