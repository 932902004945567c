package org.holtra.service.kinds.http.pasting;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Reads a request as it stands on the wire (RFC 9112, section 2.1). */
final class RawRequest {

    static final Pattern FIRST_LINE =
            Pattern.compile("(GET|POST|PUT|PATCH|DELETE)\\s+(\\S+)(\\s+HTTP/[0-9.]+)?\\s*", Pattern.CASE_INSENSITIVE);

    private RawRequest() {}

    static RequestExample read(String text) {
        List<String> lines = text.strip().lines().toList();
        Matcher first = FIRST_LINE.matcher(lines.getFirst());
        if (!first.matches()) {
            throw new IllegalArgumentException("the first line is no request line");
        }
        List<Map.Entry<String, String>> headers = new ArrayList<>();
        int at = 1;
        while (at < lines.size() && lines.get(at).matches("[!#$%&'*+.^_`|~0-9A-Za-z-]+:.*")) {
            String line = lines.get(at++);
            int colon = line.indexOf(':');
            headers.add(Map.entry(
                    line.substring(0, colon), line.substring(colon + 1).strip()));
        }
        String body = String.join("\n", lines.subList(Math.min(at, lines.size()), lines.size()))
                .strip();
        String target = first.group(2);
        String host = headers.stream()
                .filter(header -> header.getKey().equalsIgnoreCase("Host"))
                .map(Map.Entry::getValue)
                .findFirst()
                .orElse(null);
        boolean complete = target.matches("(?i)https?://.*");
        String url = complete ? target : host == null ? target : "https://" + host + target;
        return new RequestExample(
                first.group(1).toUpperCase(java.util.Locale.ROOT),
                url,
                headers,
                null,
                body.isEmpty() ? null : body,
                complete || host == null ? List.of() : List.of("the scheme is not said; https is taken"));
    }
}
