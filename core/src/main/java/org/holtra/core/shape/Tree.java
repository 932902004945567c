package org.holtra.core.shape;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;

/** A tree with templates for its texts, and parts that repeat or vanish. */
sealed interface Tree {

    /** Stands for a part that is left out. */
    Object ABSENT = new Object();

    /** @param where the place of this part in the whole, such as {@code body.items[2]} */
    Object fill(Scope scope, String where, Parts parts) throws ShapeFailure;

    record Constant(Object value) implements Tree {
        @Override
        public Object fill(Scope scope, String where, Parts parts) {
            return value;
        }
    }

    record Text(Template template) implements Tree {
        @Override
        public Object fill(Scope scope, String where, Parts parts) throws ShapeFailure {
            return template.value(scope, where);
        }
    }

    /** @param fields in the order they are written */
    record Fields(List<Field> fields) implements Tree {
        @Override
        public Map<String, Object> fill(Scope scope, String where, Parts parts) throws ShapeFailure {
            Map<String, Object> filled = LinkedHashMap.newLinkedHashMap(fields.size());
            for (Field field : fields) {
                String name = field.name.text(scope, where, text -> text);
                Object value = field.fill(scope, where + "." + name, parts);
                if (value != ABSENT) {
                    filled.put(name, value);
                }
            }
            return filled;
        }
    }

    /** @param optional whether it vanishes where something it needs is not there, or is null */
    record Field(Template name, Tree value, boolean optional) {
        Object fill(Scope scope, String where, Parts parts) throws ShapeFailure {
            try {
                Object filled = value.fill(scope, where, parts);
                return optional && filled == null ? ABSENT : filled;
            } catch (ShapeFailure failure) {
                if (optional && failure.missing()) {
                    return ABSENT;
                }
                throw failure;
            }
        }
    }

    record Items(List<Tree> items) implements Tree {
        @Override
        public Object fill(Scope scope, String where, Parts parts) throws ShapeFailure {
            List<Object> filled = new ArrayList<>(items.size());
            for (int at = 0; at < items.size(); at++) {
                Object value = items.get(at).fill(scope, where + "[" + at + "]", parts);
                if (items.get(at) instanceof Each && value instanceof List<?> many) {
                    filled.addAll(many);
                } else if (value != ABSENT) {
                    filled.add(value);
                }
            }
            return filled;
        }
    }

    /**
     * A part once for every element of a list.
     *
     * @param as the name that the element has inside the part
     */
    record Each(Expression list, String as, Tree give) implements Tree {
        @Override
        public Object fill(Scope scope, String where, Parts parts) throws ShapeFailure {
            Object found = Template.evaluate(list, scope, where + ".$each");
            if (!(found instanceof List<?> elements)) {
                throw new ShapeFailure(
                        where + ".$each", "`" + list.source() + "` is no list but " + Plain.brief(found), false);
            }
            List<Object> filled = new ArrayList<>(elements.size());
            for (int at = 0; at < elements.size(); at++) {
                parts.one(where);
                Object value = give.fill(scope.with(as, elements.get(at)), where + "[" + at + "]", parts);
                if (value != ABSENT) {
                    filled.add(value);
                }
            }
            return filled;
        }
    }

    /** A part that is there only where a condition holds. */
    record When(Condition condition, Tree give) implements Tree {
        @Override
        public Object fill(Scope scope, String where, Parts parts) throws ShapeFailure {
            return condition.holds(scope) ? give.fill(scope, where, parts) : ABSENT;
        }
    }
}
