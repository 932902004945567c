package org.holtra.core.delivery;

import java.util.HashMap;
import java.util.Map;
import org.holtra.core.expression.Scope;

/**
 * What a destination answered, as an outlet's verdict rules see it.
 *
 * @param code in its protocol's own words, such as {@code 202}
 * @param fields what else the outlet's kind tells of an answer, such as {@code headers}
 * @param body JSON as it was read, or text
 */
public record Answer(String code, Map<String, Object> fields, Object body) {

    /** The variable by which expressions see it. */
    public static final String VARIABLE = "answer";

    Scope scope() {
        return new Scope(Map.of(), Map.of(), Map.of()).with(VARIABLE, seen());
    }

    /** As expressions see it. */
    public Map<String, Object> seen() {
        Map<String, Object> seen = new HashMap<>(fields);
        seen.put("code", code);
        seen.put("body", body);
        return seen;
    }
}
