package org.holtra.core.reading;

import java.nio.charset.StandardCharsets;
import java.util.Locale;
import org.holtra.core.expression.Plain;
import org.holtra.core.reading.content.UnreadableContent;

/** The key of a device as it stands in a message. */
final class DeviceKey {

    private static final int LONGEST = 200;
    private static final String SEPARATORS = "[-:. _]";

    private DeviceKey() {}

    /**
     * @param hexadecimal whether it is brought to lower case without separators; what is not hexadecimal stays as it is
     */
    static String of(Object value, boolean hexadecimal) throws UnreadableContent {
        if (value instanceof java.util.Map<?, ?> || value instanceof Iterable<?>) {
            throw new UnreadableContent("the device's key is " + Plain.brief(value) + ", a text was expected");
        }
        String key = Plain.text(value).strip();
        boolean storable = StandardCharsets.UTF_8.newEncoder().canEncode(key)
                && key.chars().noneMatch(Character::isISOControl);
        if (key.isEmpty() || key.length() > LONGEST || !storable) {
            throw new UnreadableContent("the device's key is " + Plain.brief(key) + ", a text of 1 to " + LONGEST
                    + " characters of Unicode without control characters was expected");
        }
        if (hexadecimal) {
            String bare = key.replaceAll(SEPARATORS, "").toLowerCase(Locale.ROOT);
            return bare.matches("[0-9a-f]+") ? bare : key;
        }
        return key;
    }
}
