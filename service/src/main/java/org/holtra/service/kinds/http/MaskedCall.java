package org.holtra.service.kinds.http;

import jakarta.servlet.http.HttpServletRequest;
import java.util.Arrays;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.Collectors;
import org.holtra.service.credentials.SecretMask;

/** A refused call as people may see it: nothing in it that a sender, or somebody else, signs in with. */
final class MaskedCall {

    private static final String MASK = MaskedQuery.MASK;
    private static final int MOST_HEADERS = 30;
    private static final List<String> WITH_SCHEME = List.of("authorization", "proxy-authorization");

    private MaskedCall() {}

    /**
     * Method, path and query. A segment of the path that looks like a secret is masked: it may be a mistyped one.
     *
     * @param secrets that are masked whatever they look like
     */
    static String address(HttpServletRequest request, List<String> secrets) {
        String path = Arrays.stream(request.getRequestURI().split("/", -1))
                .map(segment -> MaskedQuery.looksSecret(segment) ? MASK : segment)
                .collect(Collectors.joining("/"));
        String query = request.getQueryString();
        String whole = request.getMethod() + " " + path + (query == null ? "" : "?" + MaskedQuery.of(query));
        return new SecretMask(secrets).masked(whole);
    }

    /** By name in lower case. Values are shown of headers that are known to carry no secret. */
    static Map<String, String> headers(HttpServletRequest request) {
        Map<String, String> shown = new LinkedHashMap<>();
        List<String> names = Collections.list(request.getHeaderNames());
        for (String name : names.subList(0, Math.min(names.size(), MOST_HEADERS))) {
            String lower = name.toLowerCase(Locale.ROOT);
            String value = String.join(", ", Collections.list(request.getHeaders(name)));
            shown.put(
                    lower, WITH_SCHEME.contains(lower) ? masked(value) : KeptHeaders.isHarmless(lower) ? value : MASK);
        }
        return shown;
    }

    /** The scheme words stay, since they are what is mistyped most. */
    private static String masked(String value) {
        String[] words = value.strip().split("\\s+");
        return Arrays.stream(words)
                .limit(words.length > 1 ? words.length - 1L : 0)
                .map(word -> SenderSlip.isScheme(word) ? word : MASK)
                .collect(Collectors.collectingAndThen(
                        Collectors.joining(" "), start -> start.isEmpty() ? MASK : start + " " + MASK));
    }
}
