package org.holtra.core.expression;

import java.util.List;
import java.util.Map;

/**
 * An expression as a tree of our own, for what conditions and shapes are mostly made of: fields, numbers, texts,
 * comparisons, arithmetic, logic. It is some tens of times faster than the general runtime, and never the judge: wherever
 * a value is not one of the few types whose rules are certain, it answers {@link #UNKNOWN}, and the runtime is asked.
 */
sealed interface Tree {

    /** The general runtime has to say. */
    Object UNKNOWN = new Object();

    /** There is no value, for a field is not there: an error, as the specification has it. */
    Object MISSING = new Object();

    /** @return a Double, Long, String, Boolean, Map or List, or one of the two signs above */
    Object of(Scope scope);

    record Constant(Object value) implements Tree {
        @Override
        public Object of(Scope scope) {
            return value;
        }
    }

    /** @param names of the fields from the root down, the root not among them */
    record Field(String root, String[] names) implements Tree {
        @Override
        public Object of(Scope scope) {
            Object at = scope.root(root);
            for (String name : names) {
                if (!(at instanceof Map<?, ?> map)) {
                    return UNKNOWN;
                }
                at = map.get(name);
                if (at == null) {
                    return map.containsKey(name) ? UNKNOWN : MISSING;
                }
            }
            return plain(at);
        }

        private static Object plain(Object value) {
            return switch (value) {
                case Double number -> number;
                case String text -> text;
                case Boolean truth -> truth;
                case Long number -> number;
                case Integer number -> (Object) number.longValue();
                case Map<?, ?> map -> map;
                case List<?> list -> list;
                default -> UNKNOWN;
            };
        }
    }

    /** {@code has(map.name)}. */
    record Has(Tree map, String name) implements Tree {
        @Override
        public Object of(Scope scope) {
            Object found = map.of(scope);
            if (found instanceof Map<?, ?> fields) {
                return fields.containsKey(name);
            }
            return found == MISSING ? MISSING : UNKNOWN;
        }
    }

    record And(Tree left, Tree right) implements Tree {
        @Override
        public Object of(Scope scope) {
            Object one = left.of(scope);
            if (one == Boolean.FALSE) {
                return one;
            }
            return Logic.joined(one, right.of(scope), Boolean.FALSE);
        }
    }

    record Or(Tree left, Tree right) implements Tree {
        @Override
        public Object of(Scope scope) {
            Object one = left.of(scope);
            if (one == Boolean.TRUE) {
                return one;
            }
            return Logic.joined(one, right.of(scope), Boolean.TRUE);
        }
    }

    record Not(Tree inner) implements Tree {
        @Override
        public Object of(Scope scope) {
            Object found = inner.of(scope);
            if (found instanceof Boolean truth) {
                return truth ? Boolean.FALSE : Boolean.TRUE;
            }
            return found == MISSING ? MISSING : UNKNOWN;
        }
    }

    record Choice(Tree condition, Tree yes, Tree no) implements Tree {
        @Override
        public Object of(Scope scope) {
            Object found = condition.of(scope);
            if (found instanceof Boolean truth) {
                return (truth ? yes : no).of(scope);
            }
            return found == MISSING ? MISSING : UNKNOWN;
        }
    }

    /** An operator on two values, both of which it needs. */
    record Pair(Tree left, Tree right, Operator operator) implements Tree {
        @Override
        public Object of(Scope scope) {
            Object one = left.of(scope);
            if (one == MISSING || one == UNKNOWN) {
                return one;
            }
            Object other = right.of(scope);
            return other == MISSING || other == UNKNOWN ? other : operator.on(one, other);
        }
    }

    interface Operator {
        /** @return {@link #UNKNOWN} for types it is not certain of */
        Object on(Object one, Object other);
    }

    /** The specification's logic, in which a side that settles a matter makes the other's error not matter. */
    final class Logic {

        private Logic() {}

        /** @param settling what one side alone settles it with; the first is known not to be that */
        static Object joined(Object first, Object second, Boolean settling) {
            if (second instanceof Boolean truth && truth.equals(settling)) {
                // An unknown first side may still be no truth value at all, but the second settles it all the same.
                return first == UNKNOWN ? UNKNOWN : settling;
            }
            if (first == UNKNOWN || second == UNKNOWN || !settled(first) || !settled(second)) {
                return UNKNOWN;
            }
            return first == MISSING || second == MISSING ? MISSING : !settling;
        }

        private static boolean settled(Object side) {
            return side == MISSING || side instanceof Boolean;
        }
    }
}
