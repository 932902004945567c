package org.holtra.core.expression;

import dev.cel.common.ast.CelConstant;
import dev.cel.common.ast.CelExpr;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * A comparison that stands in a condition.
 *
 * @param field on one side
 * @param other the field on the other side, or null
 * @param number the number on the other side, or null
 */
public record Comparison(FieldPath field, FieldPath other, Double number) {

    private static final Set<String> OPERATORS = Set.of("_<_", "_<=_", "_>_", "_>=_", "_==_", "_!=_");

    static List<Comparison> in(CelExpr expression) {
        List<Comparison> found = new ArrayList<>();
        collect(expression, found);
        return found;
    }

    private static void collect(CelExpr expression, List<Comparison> found) {
        if (expression.getKind() != CelExpr.ExprKind.Kind.CALL) {
            return;
        }
        List<CelExpr> sides = expression.call().args();
        if (OPERATORS.contains(expression.call().function()) && sides.size() == 2) {
            of(sides.get(0), sides.get(1))
                    .or(() -> of(sides.get(1), sides.get(0)))
                    .ifPresent(found::add);
        }
        sides.forEach(side -> collect(side, found));
    }

    private static Optional<Comparison> of(CelExpr side, CelExpr other) {
        return FieldPath.of(side)
                .flatMap(field -> FieldPath.of(other)
                        .map(path -> new Comparison(field, path, null))
                        .or(() -> number(other).map(number -> new Comparison(field, null, number))));
    }

    private static Optional<Double> number(CelExpr expression) {
        if (expression.getKind() != CelExpr.ExprKind.Kind.CONSTANT) {
            return Optional.empty();
        }
        CelConstant constant = expression.constant();
        return switch (constant.getKind()) {
            case DOUBLE_VALUE -> Optional.of(constant.doubleValue());
            case INT64_VALUE -> Optional.of((double) constant.int64Value());
            default -> Optional.empty();
        };
    }
}
