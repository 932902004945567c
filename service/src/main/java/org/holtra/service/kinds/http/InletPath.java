package org.holtra.service.kinds.http;

import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The path of an inlet, of which segments in braces match any text: {@code meters/{meter}/data}.
 *
 * @param segments without slashes; a named one still in its braces
 */
record InletPath(List<String> segments) {

    /** The name of the segment that may hold the sender's secret. */
    static final String SECRET = "secret";

    /** Where two match the same request, the one that says more, further to the left, comes first. */
    static final Comparator<InletPath> MOST_EXACT_FIRST = Comparator.comparing(InletPath::shape);

    /** @param path as the setup has it, checked by the inlet's form */
    static InletPath of(String path) {
        return new InletPath(List.of(path.split("/")));
    }

    boolean hasSecret() {
        return segments.contains("{" + SECRET + "}");
    }

    boolean isExact() {
        return segments.stream().noneMatch(InletPath::isNamed);
    }

    /** @return the texts of the named segments; empty if the path is not this one */
    Optional<Map<String, String>> match(String path) {
        String[] came = path.split("/", -1);
        if (came.length != segments.size()) {
            return Optional.empty();
        }
        Map<String, String> named = new LinkedHashMap<>();
        for (int i = 0; i < came.length; i++) {
            String segment = segments.get(i);
            if (isNamed(segment)) {
                if (came[i].isEmpty()) {
                    return Optional.empty();
                }
                named.put(segment.substring(1, segment.length() - 1), came[i]);
            } else if (!segment.equals(came[i])) {
                return Optional.empty();
            }
        }
        return Optional.of(named);
    }

    /** Two of the same shape match the same paths. A named segment sorts behind any text, since {@code ~} does. */
    String shape() {
        return String.join(
                "/",
                segments.stream()
                        .map(segment -> isNamed(segment) ? "~" : segment)
                        .toList());
    }

    private static boolean isNamed(String segment) {
        return segment.startsWith("{");
    }
}
