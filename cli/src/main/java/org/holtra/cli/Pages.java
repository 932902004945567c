package org.holtra.cli;

import java.util.LinkedHashMap;
import java.util.Map;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** Reads lists that the service gives in pages: its {@code next} is asked for as {@code after}. */
final class Pages {

    /** The service gives no more in one answer. */
    private static final int MOST = 500;

    private Pages() {}

    /** @param list the name of the list in the answer */
    static JsonNode all(Api api, String path, String list, Map<String, ?> query) {
        return first(api, path, list, query, Integer.MAX_VALUE).path(list);
    }

    /**
     * The first entries of a list, from as many pages as that takes.
     *
     * @return the first page's answer with all these entries; its {@code next} is null if there are no more
     */
    static JsonNode first(Api api, String path, String list, Map<String, ?> query, int limit) {
        Map<String, Object> asked = new LinkedHashMap<>(query);
        asked.put("limit", Math.min(limit, MOST));
        JsonNode page = api.get(Api.path(path, asked));
        if (!(page instanceof ObjectNode whole) || !(page.path(list) instanceof ArrayNode found)) {
            return page;
        }
        while (found.size() < limit && page.hasNonNull("next")) {
            asked.put("after", page.path("next").asString());
            asked.put("limit", Math.min(limit - found.size(), MOST));
            page = api.get(Api.path(path, asked));
            page.path(list).forEach(found::add);
        }
        whole.set("next", page.path("next"));
        return whole;
    }
}
