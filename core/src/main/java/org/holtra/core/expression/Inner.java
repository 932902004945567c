package org.holtra.core.expression;

import dev.cel.common.ast.CelExpr;
import java.util.ArrayList;
import java.util.List;

/** The parts of an expression that are worth telling of: not constants, and nothing that needs a variable of its own. */
final class Inner {

    private Inner() {}

    /** @param macro whether it was written as a macro, whose inside is not what a person wrote */
    static List<CelExpr> parts(CelExpr expression, boolean macro) {
        if (macro || FieldPath.of(expression).isPresent()) {
            return List.of();
        }
        List<CelExpr> parts = new ArrayList<>();
        switch (expression.getKind()) {
            case SELECT -> parts.add(expression.select().operand());
            case CALL -> {
                expression.call().target().ifPresent(parts::add);
                for (CelExpr argument : expression.call().args()) {
                    // a && b && c is told as three parts, not as two of which one has two
                    if (expression.call().function().matches("_&&_|_\\|\\|_")
                            && argument.getKind() == CelExpr.ExprKind.Kind.CALL
                            && argument.call()
                                    .function()
                                    .equals(expression.call().function())) {
                        parts.addAll(parts(argument, false));
                    } else {
                        parts.add(argument);
                    }
                }
            }
            case LIST -> parts.addAll(expression.list().elements());
            default -> {}
        }
        parts.removeIf(part -> part.getKind() == CelExpr.ExprKind.Kind.CONSTANT
                || part.getKind() == CelExpr.ExprKind.Kind.LIST
                        && parts(part, false).isEmpty());
        return parts;
    }
}
