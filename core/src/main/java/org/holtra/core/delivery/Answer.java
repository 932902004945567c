package org.holtra.core.delivery;

import java.util.Map;
import org.holtra.core.expression.Scope;

/**
 * What a destination answered, as an outlet's verdict rules see it.
 *
 * @param headers by their names in lower case
 * @param body JSON as it was read, or text
 */
public record Answer(int status, Map<String, String> headers, Object body) {

    /** The variable by which expressions see it. */
    public static final String VARIABLE = "answer";

    Scope scope() {
        return new Scope(Map.of(), Map.of(), Map.of())
                .with(VARIABLE, Map.of("status", (long) status, "headers", headers, "body", body));
    }
}
