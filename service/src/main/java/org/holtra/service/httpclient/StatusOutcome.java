package org.holtra.service.httpclient;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.introduction.StepOutcome;
import org.holtra.core.introduction.StepOutcome.Why;

/** What an HTTP status means for a step of a recipe, unless the recipe says otherwise. */
final class StatusOutcome {

    /** Where destinations write what is wrong, the most usual first (RFC 9457, RFC 6749, and what many do). */
    private static final List<String> WORDS =
            List.of("detail", "error_description", "message", "title", "error", "reason", "description");

    private static final int LONGEST = 300;

    private StatusOutcome() {}

    /**
     * @param body as it was read: JSON or text
     * @param notBefore when the destination said to come back, or null
     */
    static StepOutcome of(int status, Object body, java.time.Instant notBefore) {
        String reason = "the destination answered " + status
                + words(body).map(words -> ": " + words).orElse("");
        if (status >= 200 && status < 300) {
            return new StepOutcome.Done();
        }
        return switch (status) {
            case 401 -> new StepOutcome.Blocked(reason);
            case 402, 507 -> new StepOutcome.Refused(Why.QUOTA, reason);
            case 403 -> new StepOutcome.Refused(Why.RIGHT_MISSING, reason);
            case 404, 410 -> new StepOutcome.Absent(reason);
            case 408, 425, 429 -> new StepOutcome.TryLater(reason, notBefore, false);
            case 409 -> new StepOutcome.Refused(Why.NAME_TAKEN, reason);
            case 423 -> new StepOutcome.Refused(Why.DISABLED, reason);
            default ->
                status >= 500
                        ? new StepOutcome.TryLater(reason, notBefore, false)
                        : new StepOutcome.Refused(Why.OTHER, reason);
        };
    }

    /** What the destination says of it in its own words. */
    private static Optional<String> words(Object body) {
        if (body instanceof Map<?, ?> map) {
            for (String name : WORDS) {
                Object said = map.get(name);
                if (said instanceof Map<?, ?> inner) {
                    return words(inner);
                }
                if (said instanceof String text && !text.isBlank()) {
                    return Optional.of(cut(text));
                }
            }
            return Optional.empty();
        }
        return body instanceof String text
                        && !text.isBlank()
                        && !text.stripLeading().startsWith("<")
                ? Optional.of(cut(text))
                : Optional.empty();
    }

    private static String cut(String text) {
        String line = text.strip().replaceAll("\\s+", " ");
        return line.length() > LONGEST ? line.substring(0, LONGEST) + "…" : line;
    }
}
