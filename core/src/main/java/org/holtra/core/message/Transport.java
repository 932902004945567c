package org.holtra.core.message;

import java.util.LinkedHashMap;
import java.util.Map;

/**
 * How a message came, as the kind of its inlet tells it.
 *
 * @param remote the sender's address as far as it is known; empty if it is not
 * @param address where it arrived, such as a path with its query, a topic or a file; secrets masked. Empty where the
 *     transport has no such thing
 * @param traceParent the trace context it brought (W3C Trace Context, {@code traceparent}), unchecked, or null
 * @param fields what expressions see of it in {@code meta}, by name: texts, numbers, booleans, and lists and maps of them;
 *     without those that hold secrets
 */
public record Transport(String remote, String address, String traceParent, Map<String, Object> fields) {

    /** Of a message that Holtra itself makes. */
    public static final Transport NONE = of("", "");

    /** One that tells no more than its two ends. */
    public static Transport of(String remote, String address) {
        return new Transport(remote, address, null, Map.of());
    }

    /** The same with one more field. */
    public Transport with(String name, Object value) {
        Map<String, Object> more = new LinkedHashMap<>(fields);
        more.put(name, value);
        return new Transport(remote, address, traceParent, more);
    }
}
