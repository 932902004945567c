package org.holtra.core.shape;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;

/** How a value is written for where it stands in a request. */
final class Encoding {

    private Encoding() {}

    /** Percent-encoding of everything but unreserved characters (RFC 3986, section 2.3): right in a path and a query. */
    static String uri(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8)
                .replace("+", "%20")
                .replace("*", "%2A")
                .replace("%7E", "~");
    }

    /** As web forms write it: like in a query, but spaces as plus signs. */
    static String form(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8);
    }

    /** A header's value (RFC 9110, section 5.5): line breaks and other control characters become spaces. */
    static String header(String text) {
        return text.replaceAll("[\\p{Cntrl}&&[^\t]]", " ").strip();
    }
}
