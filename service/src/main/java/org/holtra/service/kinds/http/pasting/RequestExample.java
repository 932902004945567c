package org.holtra.service.kinds.http.pasting;

import java.util.List;
import java.util.Map;

/**
 * A request as an example shows it.
 *
 * @param method null if it is not said
 * @param url as written, with its query; null if there is none
 * @param headers in order; a name may stand twice
 * @param user as {@code name:password}, where the example gives one apart from the headers; or null
 * @param body null if there is none
 * @param notes what of the example was passed over, in sentences
 */
record RequestExample(
        String method,
        String url,
        List<Map.Entry<String, String>> headers,
        String user,
        String body,
        List<String> notes) {

    String header(String name) {
        return headers.stream()
                .filter(header -> header.getKey().equalsIgnoreCase(name))
                .map(Map.Entry::getValue)
                .findFirst()
                .orElse(null);
    }
}
