package org.holtra.core.shape;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import tools.jackson.databind.json.JsonMapper;

/** The content of a lane's deliveries: path, query, headers and body, each with templates. */
public final class Shape {

    private static final JsonMapper JSON = JsonMapper.shared();

    private final Template path;
    private final Map<String, Template> query;
    private final Map<String, Template> headers;
    private final Tree body;

    /** @param body the tree, or null to send the data as they were read */
    Shape(Template path, Map<String, Template> query, Map<String, Template> headers, Tree body) {
        this.path = path;
        this.query = query;
        this.headers = headers;
        this.body = body;
    }

    public Content fill(Scope scope) throws ShapeFailure {
        List<Map.Entry<String, String>> parameters = new ArrayList<>(query.size());
        for (Map.Entry<String, Template> parameter : query.entrySet()) {
            String value = parameter.getValue().text(scope, "query." + parameter.getKey(), text -> text);
            parameters.add(Map.entry(Encoding.uri(parameter.getKey()), Encoding.uri(value)));
        }
        Map<String, String> fields = LinkedHashMap.newLinkedHashMap(headers.size());
        for (Map.Entry<String, Template> header : headers.entrySet()) {
            String value = header.getValue().text(scope, "headers." + header.getKey(), text -> text);
            fields.put(header.getKey(), Encoding.header(value));
        }
        Object content = body == null ? Plain.of(scope.data()) : body.fill(scope, "body");
        return new Content(
                path == null ? "" : path.text(scope, "path", Encoding::uri),
                parameters,
                fields,
                "application/json",
                JSON.writeValueAsBytes(content));
    }
}
