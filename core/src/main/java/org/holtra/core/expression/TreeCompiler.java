package org.holtra.core.expression;

import dev.cel.common.ast.CelConstant;
import dev.cel.common.ast.CelExpr;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** Makes a tree of our own of a checked expression, where it is made of nothing else than the tree knows. */
final class TreeCompiler {

    /** Whole numbers below this are exact as doubles. */
    private static final long EXACT = 1L << 53;

    private static final Map<String, Tree.Operator> OPERATORS = Map.ofEntries(
            Map.entry("_<_", (a, b) -> ordered(a, b, -1, false)),
            Map.entry("_<=_", (a, b) -> ordered(a, b, -1, true)),
            Map.entry("_>_", (a, b) -> ordered(a, b, 1, false)),
            Map.entry("_>=_", (a, b) -> ordered(a, b, 1, true)),
            Map.entry("_==_", TreeCompiler::equal),
            Map.entry("_!=_", (a, b) -> equal(a, b) instanceof Boolean same ? (Object) !same : Tree.UNKNOWN),
            Map.entry("_+_", TreeCompiler::sum),
            Map.entry("_-_", (a, b) -> doubles(a, b) ? (Object) (number(a) - number(b)) : Tree.UNKNOWN),
            Map.entry("_*_", (a, b) -> doubles(a, b) ? (Object) (number(a) * number(b)) : Tree.UNKNOWN),
            Map.entry("_/_", (a, b) -> doubles(a, b) ? (Object) (number(a) / number(b)) : Tree.UNKNOWN));

    private static final Map<String, Tree.Operator> ON_TEXTS = Map.of(
            "startsWith",
                    (a, b) -> a instanceof String one && b instanceof String two
                            ? (Object) one.startsWith(two)
                            : Tree.UNKNOWN,
            "endsWith",
                    (a, b) -> a instanceof String one && b instanceof String two
                            ? (Object) one.endsWith(two)
                            : Tree.UNKNOWN,
            "contains",
                    (a, b) -> a instanceof String one && b instanceof String two
                            ? (Object) one.contains(two)
                            : Tree.UNKNOWN);

    private TreeCompiler() {}

    static Optional<Tree> compile(CelExpr expression) {
        return Optional.ofNullable(tree(expression));
    }

    /** Null where there is something in it that the tree does not know. */
    private static Tree tree(CelExpr expression) {
        Optional<FieldPath> path = FieldPath.of(expression);
        if (path.isPresent()) {
            List<String> names = path.get().names();
            return new Tree.Field(
                    names.getFirst(), names.subList(1, names.size()).toArray(String[]::new));
        }
        return switch (expression.getKind()) {
            case CONSTANT -> constant(expression.constant());
            case SELECT -> {
                Tree operand = tree(expression.select().operand());
                yield operand == null || !expression.select().testOnly()
                        ? null
                        : new Tree.Has(operand, expression.select().field());
            }
            case CALL -> call(expression.call());
            default -> null;
        };
    }

    private static Tree constant(CelConstant constant) {
        return switch (constant.getKind()) {
            case DOUBLE_VALUE -> new Tree.Constant(constant.doubleValue());
            case INT64_VALUE -> new Tree.Constant(constant.int64Value());
            case STRING_VALUE -> new Tree.Constant(constant.stringValue());
            case BOOLEAN_VALUE -> new Tree.Constant(constant.booleanValue());
            default -> null;
        };
    }

    private static Tree call(CelExpr.CelCall call) {
        List<CelExpr> given = call.args();
        if (call.target().isPresent()) {
            Tree.Operator onText = ON_TEXTS.get(call.function());
            return onText == null || given.size() != 1
                    ? null
                    : pair(tree(call.target().get()), tree(given.getFirst()), onText);
        }
        switch (call.function()) {
            case "_&&_", "_||_" -> {
                Tree left = tree(given.get(0));
                Tree right = tree(given.get(1));
                if (left == null || right == null) {
                    return null;
                }
                return call.function().equals("_&&_") ? new Tree.And(left, right) : new Tree.Or(left, right);
            }
            case "!_" -> {
                Tree inner = tree(given.getFirst());
                return inner == null ? null : new Tree.Not(inner);
            }
            case "_?_:_" -> {
                Tree condition = tree(given.get(0));
                Tree yes = tree(given.get(1));
                Tree no = tree(given.get(2));
                return condition == null || yes == null || no == null ? null : new Tree.Choice(condition, yes, no);
            }
            case "@in" -> {
                return in(given);
            }
            default -> {
                Tree.Operator operator = OPERATORS.get(call.function());
                return operator == null || given.size() != 2
                        ? null
                        : pair(tree(given.get(0)), tree(given.get(1)), operator);
            }
        }
    }

    private static Tree pair(Tree left, Tree right, Tree.Operator operator) {
        return left == null || right == null ? null : new Tree.Pair(left, right, operator);
    }

    /** A text among texts that are written down. */
    private static Tree in(List<CelExpr> given) {
        Tree value = tree(given.get(0));
        if (value == null || given.get(1).getKind() != CelExpr.ExprKind.Kind.LIST) {
            return null;
        }
        Set<String> texts = new HashSet<>();
        for (CelExpr element : given.get(1).list().elements()) {
            if (element.getKind() != CelExpr.ExprKind.Kind.CONSTANT
                    || element.constant().getKind() != CelConstant.Kind.STRING_VALUE) {
                return null;
            }
            texts.add(element.constant().stringValue());
        }
        return new Tree.Pair(
                value,
                new Tree.Constant(texts),
                (one, all) -> one instanceof String text ? (Object) ((Set<?>) all).contains(text) : Tree.UNKNOWN);
    }

    /** Two numbers of which at least one is a double, so that the result is one. */
    private static boolean doubles(Object a, Object b) {
        return a instanceof Double && exact(b) || b instanceof Double && exact(a);
    }

    private static boolean exact(Object value) {
        return value instanceof Double || value instanceof Long number && Math.abs(number) < EXACT;
    }

    private static double number(Object value) {
        return ((Number) value).doubleValue();
    }

    /** @param wanted the sign of a comparison that makes it true */
    private static Object ordered(Object a, Object b, int wanted, boolean orEqual) {
        if (!exact(a) || !exact(b)) {
            return Tree.UNKNOWN;
        }
        double one = number(a);
        double other = number(b);
        if (odd(one, other)) {
            return Tree.UNKNOWN;
        }
        return wanted < 0 ? one < other || orEqual && one == other : one > other || orEqual && one == other;
    }

    /** NaN and zeros of different signs, on which the runtime's rules differ by the types it compares. */
    private static boolean odd(double one, double other) {
        return one != one
                || other != other
                || one == 0 && other == 0 && Double.doubleToRawLongBits(one) != Double.doubleToRawLongBits(other);
    }

    private static Object equal(Object a, Object b) {
        if (exact(a) && exact(b)) {
            double one = number(a);
            double other = number(b);
            return odd(one, other) ? Tree.UNKNOWN : (Object) (one == other);
        }
        if (a instanceof String && b instanceof String || a instanceof Boolean && b instanceof Boolean) {
            return a.equals(b);
        }
        return Tree.UNKNOWN;
    }

    private static Object sum(Object a, Object b) {
        if (a instanceof String one && b instanceof String other) {
            return one.length() + other.length() > TextFunctions.LONGEST ? Tree.UNKNOWN : one + other;
        }
        return doubles(a, b) ? (Object) (number(a) + number(b)) : Tree.UNKNOWN;
    }
}
