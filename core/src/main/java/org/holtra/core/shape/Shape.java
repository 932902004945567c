package org.holtra.core.shape;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;

/** The content of a lane's deliveries: path, query, headers and body, each with templates. */
public final class Shape {

    private static final String HEADER_NAME = "[!#$%&'*+.^_`|~0-9A-Za-z-]+";
    private static final Set<String> FRAMING =
            Set.of("host", "content-length", "transfer-encoding", "connection", "upgrade", "te", "trailer");

    private final Template path;
    private final Tree.Fields query;
    private final Tree.Fields headers;
    private final String contentType;
    private final Body body;

    /** @param contentType null for the one that goes with the body */
    Shape(Template path, Tree.Fields query, Tree.Fields headers, String contentType, Body body) {
        this.path = path;
        this.query = query;
        this.headers = headers;
        this.contentType = contentType;
        this.body = body;
    }

    /** Sends the data as they were read, as JSON. */
    public static Shape asRead() {
        return new Shape(null, new Tree.Fields(List.of()), new Tree.Fields(List.of()), null, new Body.Json(null));
    }

    /** The optional parts that vanish for a message, with the reason, in the order they are written. */
    public List<LeftOut> leftOut(Scope scope) {
        Absences absences = new Absences();
        absences.look(query, scope, "query");
        absences.look(headers, scope, "headers");
        absences.look(body.tree(), scope, "body");
        return absences.found();
    }

    /**
     * An optional part that vanishes.
     *
     * @param where in the shape, such as {@code body.battery}
     */
    public record LeftOut(String where, String why) {}

    public Content fill(Scope scope) throws ShapeFailure {
        Parts parts = new Parts();
        List<Map.Entry<String, String>> parameters =
                new ArrayList<>(query.fields().size());
        for (Tree.Field parameter : query.fields()) {
            String name = parameter.name().text(scope, "query", text -> text);
            Object value = parameter.fill(scope, "query." + name, parts);
            if (value != Tree.ABSENT) {
                parameters.add(Map.entry(Encoding.uri(name), Encoding.uri(Plain.text(value))));
            }
        }
        Map<String, String> fields =
                LinkedHashMap.newLinkedHashMap(headers.fields().size());
        for (Tree.Field header : headers.fields()) {
            String name = header.name().text(scope, "headers", text -> text);
            Object value = header.fill(scope, "headers." + name, parts);
            if (value != Tree.ABSENT) {
                checkHeader(name);
                fields.put(name, Encoding.header(Plain.text(value)));
            }
        }
        return new Content(
                path == null ? "" : checkedPath(path.text(scope, "path", Encoding::uri)),
                parameters,
                fields,
                contentType == null ? body.contentType() : contentType,
                body.write(scope));
    }

    /** A segment of one or two dots leads elsewhere (RFC 3986, section 5.2.4); a device's key may be such. */
    private static String checkedPath(String path) throws ShapeFailure {
        String bare = path.split("[?#]", 2)[0];
        for (String segment : bare.split("/", -1)) {
            String plain = segment.replaceAll("(?i)%2e", ".");
            if (plain.equals(".") || plain.equals("..")) {
                throw new ShapeFailure(
                        "path",
                        "a segment of the path would be `" + segment + "`, which leads to another address",
                        false);
            }
        }
        return path;
    }

    /** RFC 9110, section 5.1; what frames the request is the client's own business. */
    private static void checkHeader(String name) throws ShapeFailure {
        if (!name.matches(HEADER_NAME)) {
            throw new ShapeFailure("headers", "`" + name + "` is no name of a header", false);
        }
        if (FRAMING.contains(name.toLowerCase(Locale.ROOT))) {
            throw new ShapeFailure("headers", "the header " + name + " is set by the connection itself", false);
        }
    }
}
