package org.holtra.core.text;

import java.time.Duration;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** A length of time as a setup writes it: {@code 500ms}, {@code 30s}, {@code 5m}, {@code 2h}, {@code 3d}. */
public final class DurationText {

    /** As a regular expression, for forms and schemas. */
    public static final String PATTERN = "^[0-9]+(ms|s|m|h|d)$";

    private static final Pattern WRITTEN = Pattern.compile("([0-9]{1,9})(ms|s|m|h|d)");

    private DurationText() {}

    /** @throws IllegalArgumentException if the text is no such length */
    public static Duration parse(String text) {
        Matcher matcher = WRITTEN.matcher(text);
        if (!matcher.matches()) {
            throw new IllegalArgumentException(
                    "`" + text + "` is not a length of time; write a number and ms, s, m, h or d, such as 30s");
        }
        long count = Long.parseLong(matcher.group(1));
        return switch (matcher.group(2)) {
            case "ms" -> Duration.ofMillis(count);
            case "s" -> Duration.ofSeconds(count);
            case "m" -> Duration.ofMinutes(count);
            case "h" -> Duration.ofHours(count);
            default -> Duration.ofDays(count);
        };
    }
}
