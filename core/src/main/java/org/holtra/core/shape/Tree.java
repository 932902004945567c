package org.holtra.core.shape;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Scope;

/** A JSON tree with templates for its texts. */
sealed interface Tree {

    /** @param where the place of this part in the whole, such as {@code body.items[2]} */
    Object fill(Scope scope, String where) throws ShapeFailure;

    record Constant(Object value) implements Tree {
        @Override
        public Object fill(Scope scope, String where) {
            return value;
        }
    }

    record Text(Template template) implements Tree {
        @Override
        public Object fill(Scope scope, String where) throws ShapeFailure {
            return template.value(scope, where);
        }
    }

    record Fields(Map<String, Tree> fields) implements Tree {
        @Override
        public Object fill(Scope scope, String where) throws ShapeFailure {
            Map<String, Object> filled = LinkedHashMap.newLinkedHashMap(fields.size());
            for (Map.Entry<String, Tree> field : fields.entrySet()) {
                filled.put(field.getKey(), field.getValue().fill(scope, where + "." + field.getKey()));
            }
            return filled;
        }
    }

    record Items(List<Tree> items) implements Tree {
        @Override
        public Object fill(Scope scope, String where) throws ShapeFailure {
            List<Object> filled = new ArrayList<>(items.size());
            for (int at = 0; at < items.size(); at++) {
                filled.add(items.get(at).fill(scope, where + "[" + at + "]"));
            }
            return filled;
        }
    }
}
