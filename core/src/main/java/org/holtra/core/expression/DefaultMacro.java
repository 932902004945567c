package org.holtra.core.expression;

import dev.cel.common.ast.CelExpr;
import dev.cel.parser.CelMacro;
import dev.cel.parser.CelMacroExprFactory;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * {@code default(field, otherwise)}: the field's value, or the other one where some part of the way to it is not there or
 * the value is null. A macro, since a function would be handed the field's absence as an error.
 */
final class DefaultMacro {

    private DefaultMacro() {}

    static CelMacro macro() {
        return CelMacro.newGlobalMacro("default", 2, (make, target, given) -> expanded(make, given));
    }

    private static Optional<CelExpr> expanded(CelMacroExprFactory make, List<CelExpr> given) {
        CelExpr field = given.getFirst();
        List<CelExpr> steps = new ArrayList<>();
        for (CelExpr at = field;
                at.getKind() == CelExpr.ExprKind.Kind.SELECT;
                at = at.select().operand()) {
            steps.addFirst(at);
        }
        if (steps.isEmpty()) {
            return Optional.of(make.reportError("default() takes a field first, such as default(data.level, 0)"));
        }
        CelExpr there = make.newGlobalCall(
                "_!=_",
                make.copy(field),
                make.newConstant(dev.cel.common.ast.CelConstant.ofValue(dev.cel.common.values.NullValue.NULL_VALUE)));
        for (CelExpr step : steps.reversed()) {
            CelExpr has = make.newSelect(
                    make.copy(step.select().operand()), step.select().field(), true);
            there = make.newGlobalCall("_&&_", has, there);
        }
        return Optional.of(make.newGlobalCall("_?_:_", there, field, given.get(1)));
    }
}
