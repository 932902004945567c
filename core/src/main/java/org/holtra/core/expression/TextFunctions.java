package org.holtra.core.expression;

import static dev.cel.common.types.SimpleType.INT;
import static dev.cel.common.types.SimpleType.STRING;

import dev.cel.common.types.ListType;
import dev.cel.runtime.CelFunctionBinding;
import java.util.List;
import java.util.StringJoiner;

/**
 * The functions of CEL's library for texts (strings extension) that can make much of little, with a bound: what they give is
 * measured before it is made.
 */
final class TextFunctions {

    /** Characters of any text that an expression makes. */
    static final int LONGEST = 4 << 20;

    private static final String TOO_LONG = "a text would be longer than " + LONGEST + " characters";

    private TextFunctions() {}

    static List<OwnFunction> all() {
        return List.of(
                OwnFunction.ofValue(
                        "replace",
                        new OwnFunction.Overload(
                                STRING,
                                List.of(STRING, STRING, STRING),
                                given -> replace((String) given[0], (String) given[1], (String) given[2], -1)),
                        new OwnFunction.Overload(
                                STRING,
                                List.of(STRING, STRING, STRING, INT),
                                given -> replace(
                                        (String) given[0], (String) given[1], (String) given[2], (Long) given[3]))),
                OwnFunction.ofValue(
                        "join",
                        new OwnFunction.Overload(
                                STRING, List.of(ListType.create(STRING)), given -> join((List<?>) given[0], "")),
                        new OwnFunction.Overload(
                                STRING,
                                List.of(ListType.create(STRING), STRING),
                                given -> join((List<?>) given[0], (String) given[1]))));
    }

    /** Takes the place of CEL's own, which has no bound. */
    static CelFunctionBinding concatenation() {
        return CelFunctionBinding.from("add_string", String.class, String.class, (a, b) -> {
            check((long) a.length() + b.length());
            return a + b;
        });
    }

    /** @param most how many are replaced; negative for all */
    private static String replace(String text, String old, String by, long most) {
        if (most == 0) {
            return text;
        }
        long found = 0;
        int at = text.indexOf(old);
        while (at >= 0 && found != most) {
            found++;
            at = at + Math.max(1, old.length()) > text.length()
                    ? -1
                    : text.indexOf(old, at + Math.max(1, old.length()));
        }
        check(text.length() + found * (by.length() - old.length()));
        StringBuilder replaced = new StringBuilder();
        int from = 0;
        for (long i = 0; i < found; i++) {
            int next = text.indexOf(old, i > 0 && old.isEmpty() ? from + 1 : from);
            replaced.append(text, from, next).append(by);
            from = next + old.length();
        }
        return replaced.append(text, from, text.length()).toString();
    }

    private static String join(List<?> texts, String separator) {
        long length = 0;
        for (Object text : texts) {
            if (!(text instanceof String one)) {
                throw new IllegalArgumentException("join() takes a list of texts, not of " + Plain.brief(text));
            }
            length += one.length() + (long) separator.length();
            check(length - separator.length());
        }
        StringJoiner joined = new StringJoiner(separator);
        texts.forEach(text -> joined.add((String) text));
        return joined.toString();
    }

    private static void check(long length) {
        if (length > LONGEST) {
            throw new IllegalArgumentException(TOO_LONG);
        }
    }
}
