package org.holtra.service.kinds.http;

import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.stream.Collectors;

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

    /** The value of one parameter, decoded; null if there is none. */
    static String value(String query, String name) {
        return query == null ? null : fields(query).get(name);
    }

    /** The query without one parameter; as it came if that is null. */
    static String without(String query, String name) {
        return name == null
                ? query
                : Arrays.stream(query.split("&"))
                        .filter(parameter ->
                                !decoded(parameter.split("=", 2)[0]).equals(name))
                        .collect(Collectors.joining("&"));
    }

    private static String decoded(String text) {
        try {
            return URLDecoder.decode(text, StandardCharsets.UTF_8);
        } catch (IllegalArgumentException e) {
            return text; // a percent sign that encodes nothing is kept as it was sent
        }
    }
}
