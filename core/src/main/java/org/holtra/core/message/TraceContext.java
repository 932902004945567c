package org.holtra.core.message;

import java.util.HexFormat;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * The trace that a message belongs to (W3C Trace Context): the one that came in with it, or its own, whose id is its own id's
 * sixteen bytes.
 *
 * @param trace 32 hexadecimal digits
 * @param parent the sender's span, 16 hexadecimal digits; null if no trace came in
 * @param span the message's own, which follows from its id, so that every node knows it
 */
public record TraceContext(String trace, String parent, String span) {

    private static final Pattern TRACEPARENT =
            Pattern.compile("[0-9a-f]{2}-([0-9a-f]{32})-([0-9a-f]{16})-[0-9a-f]{2}.*");

    /** @param came the {@code traceparent} that came in, unchecked; null if none did */
    public static TraceContext of(MessageId id, String came) {
        String span = HexFormat.of().toHexDigits(id.value().getLeastSignificantBits());
        Matcher matcher = TRACEPARENT.matcher(came == null ? "" : came);
        return matcher.matches()
                ? new TraceContext(matcher.group(1), matcher.group(2), span)
                : new TraceContext(id.traceId(), null, span);
    }

    /** The {@code traceparent} of a span within it. */
    public String traceparent(String its) {
        return "00-" + trace + "-" + its + "-01";
    }
}
