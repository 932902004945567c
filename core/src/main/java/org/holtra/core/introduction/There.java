package org.holtra.core.introduction;

import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.Map;
import org.holtra.core.expression.Scope;

/**
 * What a device is called at a destination, as expressions see it: {@code there.name}, {@code there.id}, and what else a recipe
 * keeps of answers.
 *
 * @param name that we give it there
 * @param id that it has there; null as long as that is not known
 * @param kept what else was taken from answers, by name
 */
public record There(String name, String id, Map<String, Object> kept) {

    /** The variable by which expressions see it. */
    public static final String VARIABLE = "there";

    public There {
        kept = Map.copyOf(kept);
    }

    public Scope in(Scope scope) {
        Map<String, Object> seen = new HashMap<>(kept);
        seen.put("name", name);
        if (id != null) {
            seen.put("id", id);
        }
        return scope.with(VARIABLE, seen);
    }

    /** The same with what an answer brought. */
    public There and(Learned learned) {
        Map<String, Object> all = new LinkedHashMap<>(kept);
        all.putAll(learned.kept());
        return new There(name, learned.id() == null ? id : learned.id(), all);
    }
}
