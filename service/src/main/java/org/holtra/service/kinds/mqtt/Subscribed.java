package org.holtra.service.kinds.mqtt;

import java.util.List;
import org.slf4j.LoggerFactory;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/**
 * What an inlet has subscribed to. The broker remembers it across connections, and does not say it.
 *
 * @param filters as the broker has them, shared ones with their group
 */
record Subscribed(int qos, List<String> filters) {

    static final Subscribed NONE = new Subscribed(-1, List.of());
    private static final JsonMapper JSON = JsonMapper.shared();

    /** @param text of {@link #text}; empty if nothing was kept */
    static Subscribed of(String text) {
        if (text == null || text.isEmpty()) {
            return NONE;
        }
        try {
            return JSON.readValue(text, Subscribed.class);
        } catch (JacksonException e) {
            LoggerFactory.getLogger(Subscribed.class).warn("`{}` does not tell what was subscribed to", text);
            return NONE;
        }
    }

    String text() {
        return JSON.writeValueAsString(this);
    }

    /** The filters that are no longer wanted. */
    List<String> without(Subscribed wanted) {
        return filters.stream()
                .filter(filter -> !wanted.filters.contains(filter))
                .toList();
    }

    /** Whether all that is wanted is subscribed to already. */
    boolean covers(Subscribed wanted) {
        return qos == wanted.qos && filters.containsAll(wanted.filters);
    }
}
