package org.holtra.service.kinds.http;

import jakarta.servlet.http.HttpServletRequest;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.holtra.service.httpclient.HttpCredential;

/**
 * Which headers of a request are kept with its message: those that are known to carry no secret, and those the inlet names.
 * Senders put keys into headers of any name, so what is not known is left out, and its name is noted.
 */
final class KeptHeaders {

    /** The names of the headers that were left out, as a header of its own. */
    static final String NOT_KEPT = "holtra-not-kept";

    private static final int LONGEST_NOTE = 500;

    private static final Set<String> HARMLESS = Set.of(
            "accept",
            "accept-charset",
            "accept-encoding",
            "accept-language",
            "cache-control",
            "content-encoding",
            "content-language",
            "content-length",
            "content-type",
            "date",
            "forwarded",
            "from",
            "host",
            "idempotency-key",
            "traceparent",
            "tracestate",
            "transfer-encoding",
            "user-agent",
            "via",
            "webhook-id",
            "webhook-timestamp",
            "x-correlation-id",
            "x-forwarded-for",
            "x-forwarded-host",
            "x-forwarded-port",
            "x-forwarded-proto",
            "x-real-ip",
            "x-request-id");

    /** Attributes of an event (CloudEvents 1.0, HTTP protocol binding, section 3.1.3). */
    private static final String EVENT_ATTRIBUTE = "ce-";

    /** Kept by no inlet, whatever it names: they hold what others sign in with. */
    private static final Set<String> NEVER =
            Set.of("authorization", "proxy-authorization", "cookie", "set-cookie", "webhook-signature");

    /** Left out, and not worth a note. */
    private static final Set<String> OF_THE_CONNECTION =
            Set.of("connection", "keep-alive", "upgrade", "te", "expect", "http2-settings");

    private KeptHeaders() {}

    /**
     * @param named by the inlet, in lower case
     * @return by name in lower case
     */
    static Map<String, String> of(HttpServletRequest request, Set<String> named, HttpCredential credential) {
        Map<String, String> kept = new LinkedHashMap<>();
        List<String> left = new ArrayList<>();
        for (String name : Collections.list(request.getHeaderNames())) {
            String lower = name.toLowerCase(Locale.ROOT);
            if (isSecret(lower, credential)) {
                continue;
            }
            if (isHarmless(lower) || named.contains(lower)) {
                kept.put(lower, String.join(", ", Collections.list(request.getHeaders(name))));
            } else if (!OF_THE_CONNECTION.contains(lower)) {
                left.add(lower);
            }
        }
        if (!left.isEmpty()) {
            String note = left.stream().sorted().collect(Collectors.joining(", "));
            kept.put(NOT_KEPT, note.length() > LONGEST_NOTE ? note.substring(0, LONGEST_NOTE) + "…" : note);
        }
        return kept;
    }

    /** @param header in lower case */
    static boolean isHarmless(String header) {
        return HARMLESS.contains(header) || header.startsWith(EVENT_ATTRIBUTE);
    }

    private static boolean isSecret(String header, HttpCredential credential) {
        return NEVER.contains(header)
                || credential instanceof HttpCredential.Header(String name, String value)
                        && name.equalsIgnoreCase(header);
    }
}
