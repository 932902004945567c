package org.holtra.core.shape;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;

/** How a value is written for where it stands in a request. */
final class Encoding {

    private Encoding() {}

    /** As web forms write it: like in a query, but spaces as plus signs. */
    static String form(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8);
    }
}
