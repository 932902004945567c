package org.holtra.core.reading.proposal;

import java.util.Base64;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;

/** Whether a text looks like bytes for a codec. */
final class PayloadLook {

    private static final Set<String> NAMES = Set.of(
            "payload", "frmpayload", "data", "raw", "rawdata", "bytes", "hex", "payloadhex", "payloadraw", "body");

    private static final Pattern HEX = Pattern.compile("(?i)([0-9a-f]{2}){2,}");
    private static final Pattern DIGITS = Pattern.compile("[0-9]+");

    private PayloadLook() {}

    /** @return {@code hex} or {@code base64}; empty if it looks like neither, or has another name */
    static Optional<String> encoding(String name, Object value) {
        if (!(value instanceof String text)
                || !NAMES.contains(name)
                || DIGITS.matcher(text).matches()) {
            return Optional.empty();
        }
        if (HEX.matcher(text).matches()) {
            return Optional.of("hex");
        }
        if (text.length() < 4 || text.length() % 4 != 0) {
            return Optional.empty();
        }
        try {
            Base64.getDecoder().decode(text.replace('-', '+').replace('_', '/'));
            return Optional.of("base64");
        } catch (IllegalArgumentException e) {
            return Optional.empty(); // ordinary text
        }
    }
}
