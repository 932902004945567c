package org.holtra.core.reading;

import java.util.LinkedHashMap;
import java.util.Map;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Message;

/** What expressions see as {@code meta}: what the transport adds, and what reading found out. */
public final class Meta {

    /** The content that a decoded payload came in. */
    public static final String ENVELOPE = "envelope";

    /** How the event time cannot be right, where it cannot: {@code ahead} or {@code behind}. */
    public static final String CLOCK = "clock";

    /** True where a lane with memory passes on what came after what it belongs to was closed. */
    public static final String LATE = "late";

    private Meta() {}

    public static Map<String, Object> of(Arrival arrival) {
        Map<String, Object> meta = new LinkedHashMap<>();
        meta.putAll(arrival.transport().fields());
        meta.put("id", arrival.id().toString());
        meta.put("inlet", arrival.inlet());
        meta.put("received", arrival.received());
        meta.put("remote", arrival.transport().remote());
        meta.put("address", arrival.transport().address());
        meta.put("contentType", arrival.contentType() == null ? "" : arrival.contentType());
        return meta;
    }

    public static Map<String, Object> of(Message message) {
        Map<String, Object> meta = of(message.arrival());
        meta.put("eventTime", message.eventTime());
        meta.put("type", message.type().word());
        meta.put("simulated", message.simulated());
        if (message.origin().sequence() != null) {
            meta.put("sequence", (double) message.origin().sequence());
        }
        meta.putAll(message.meta());
        return meta;
    }
}
