package org.holtra.core.unit;

import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.regex.Pattern;
import javax.measure.IncommensurableException;
import javax.measure.UnconvertibleException;
import javax.measure.Unit;
import javax.measure.UnitConverter;
import systems.uom.ucum.format.UCUMFormat;
import systems.uom.ucum.internal.format.TokenMgrError;

/** Units by their case-sensitive UCUM codes, such as {@code Cel}, {@code mm} or {@code kW.h}. */
public final class Units {

    /** Printable ASCII without spaces (UCUM, section 2.1). */
    private static final Pattern WRITTEN = Pattern.compile("[!-~]+");

    private static final int MOST_KEPT = 1_000;
    private static final Map<String, Unit<?>> PARSED = new ConcurrentHashMap<>();
    private static final Map<String, UnitConverter> CONVERTERS = new ConcurrentHashMap<>();

    private Units() {}

    /** @throws IllegalArgumentException if UCUM has no such unit */
    public static void check(String code) {
        unit(code);
    }

    /** @throws IllegalArgumentException if UCUM has no such unit, or the two measure different things */
    public static double convert(double value, String from, String to) {
        String pair = from + '\n' + to;
        UnitConverter converter = CONVERTERS.get(pair);
        if (converter == null) {
            converter = converter(from, to);
            if (CONVERTERS.size() < MOST_KEPT) {
                CONVERTERS.put(pair, converter);
            }
        }
        return tidy(converter.convert(value));
    }

    private static UnitConverter converter(String from, String to) {
        try {
            return unit(from).getConverterToAny(unit(to));
        } catch (IncommensurableException | UnconvertibleException e) {
            throw new IllegalArgumentException("`" + from + "` and `" + to + "` measure different things", e);
        }
    }

    private static Unit<?> unit(String code) {
        Unit<?> known = PARSED.get(code);
        if (known != null) {
            return known;
        }
        if (!WRITTEN.matcher(code).matches() || code.contains("//")) {
            throw new IllegalArgumentException("UCUM has no unit `" + code + "`");
        }
        try {
            Unit<?> unit =
                    UCUMFormat.getInstance(UCUMFormat.Variant.CASE_SENSITIVE).parse(code);
            if (PARSED.size() < MOST_KEPT) {
                PARSED.put(code, unit);
            }
            return unit;
        } catch (RuntimeException | TokenMgrError e) {
            // Which exception the library throws depends on how far its lexer and parser came.
            throw new IllegalArgumentException("UCUM has no unit `" + code + "`", e);
        }
    }

    /** Twelve digits: what a chain of factors adds in the sixteenth is not the sender's. */
    private static double tidy(double value) {
        return Double.isFinite(value) && value != 0
                ? new java.math.BigDecimal(value)
                        .round(new java.math.MathContext(12))
                        .doubleValue()
                : value;
    }
}
