package org.holtra.service.httpclient;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.core.shape.ShapeField;

/** What a shape may say beside the body of a request: method, path, query and headers. */
public final class HttpShape {

    /** In place of the outlet's. */
    public static final String METHOD = "method";

    public static final String PATH = "path";
    public static final String QUERY = "query";
    public static final String HEADERS = "headers";

    public static final List<ShapeField> FIELDS = List.of(
            ShapeField.text(METHOD, new Method()),
            ShapeField.text(PATH, new Path()),
            ShapeField.named(QUERY, new Query()),
            ShapeField.named(HEADERS, new Headers()));

    private static final List<String> METHODS = List.of("GET", "POST", "PUT", "PATCH", "DELETE");
    private static final String HEADER_NAME = "[!#$%&'*+.^_`|~0-9A-Za-z-]+";
    private static final Set<String> FRAMING =
            Set.of("host", "content-length", "transfer-encoding", "connection", "upgrade", "te", "trailer");

    private HttpShape() {}

    private record Method() implements ShapeField.Writing {

        @Override
        public String value(String value) {
            return value;
        }

        @Override
        public String whole(String method) throws ShapeFailure {
            String upper = method.toUpperCase(Locale.ROOT);
            if (!METHODS.contains(upper)) {
                throw new ShapeFailure(METHOD, "`" + method + "` is none of " + String.join(", ", METHODS));
            }
            return upper;
        }
    }

    private record Path() implements ShapeField.Writing {

        @Override
        public String value(String value) {
            return encoded(value);
        }

        /** A segment of one or two dots leads elsewhere (RFC 3986, section 5.2.4); a device's key may be such. */
        @Override
        public String whole(String path) throws ShapeFailure {
            String bare = path.split("[?#]", 2)[0];
            for (String segment : bare.split("/", -1)) {
                String plain = segment.replaceAll("(?i)%2e", ".");
                if (plain.equals(".") || plain.equals("..")) {
                    throw new ShapeFailure(
                            PATH, "a segment of the path would be `" + segment + "`, which leads to another address");
                }
            }
            return path;
        }
    }

    private record Query() implements ShapeField.Writing {

        @Override
        public String value(String value) {
            return encoded(value);
        }

        @Override
        public String name(String name) {
            return encoded(name);
        }
    }

    private record Headers() implements ShapeField.Writing {

        /** Line breaks and other control characters become spaces (RFC 9110, section 5.5). */
        @Override
        public String value(String value) {
            return value.replaceAll("[\\p{Cntrl}&&[^\t]]", " ").strip();
        }

        /** RFC 9110, section 5.1; what frames the request is the client's own business. */
        @Override
        public String name(String name) throws ShapeFailure {
            if (!name.matches(HEADER_NAME)) {
                throw new ShapeFailure(HEADERS, "`" + name + "` is no name of a header");
            }
            if (FRAMING.contains(name.toLowerCase(Locale.ROOT))) {
                throw new ShapeFailure(HEADERS, "the header " + name + " is set by the connection itself");
            }
            return name;
        }
    }

    /** Percent-encoding of everything but unreserved characters (RFC 3986, section 2.3): right in a path and a query. */
    private static String encoded(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8)
                .replace("+", "%20")
                .replace("*", "%2A")
                .replace("%7E", "~");
    }
}
