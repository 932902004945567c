package org.holtra.service.kinds.http;

import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.Map;

/** The query of a request by name, as expressions see it. Values of a name that comes more than once are joined with commas. */
final class RequestQuery {

    private RequestQuery() {}

    /** @param query without its question mark, secrets masked; empty if there is none */
    static Map<String, String> fields(String query) {
        Map<String, String> fields = new LinkedHashMap<>();
        for (String parameter : query.split("&")) {
            if (!parameter.isEmpty()) {
                int equals = parameter.indexOf('=');
                String name = decoded(equals < 0 ? parameter : parameter.substring(0, equals));
                String value = equals < 0 ? "" : decoded(parameter.substring(equals + 1));
                fields.merge(name, value, (before, more) -> before + ", " + more);
            }
        }
        return fields;
    }

    private static String decoded(String text) {
        try {
            return URLDecoder.decode(text, StandardCharsets.UTF_8);
        } catch (IllegalArgumentException e) {
            return text; // a percent sign that encodes nothing is kept as it was sent
        }
    }
}
