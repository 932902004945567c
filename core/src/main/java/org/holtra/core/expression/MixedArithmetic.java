package org.holtra.core.expression;

import dev.cel.common.CelFunctionDecl;
import dev.cel.common.CelOverloadDecl;
import dev.cel.common.types.SimpleType;
import dev.cel.runtime.CelFunctionBinding;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.function.DoubleBinaryOperator;

/**
 * Arithmetic between int and double, in both orders, with a double as the result. CEL has none, but JSON numbers are
 * doubles, and people write {@code data.temperature * 10}. CEL has no remainder of doubles either; here it has the sign
 * of the dividend, as CEL's remainder of ints has.
 */
final class MixedArithmetic {

    private static final Map<String, DoubleBinaryOperator> OPERATORS = Map.of(
            "_+_", (a, b) -> a + b,
            "_-_", (a, b) -> a - b,
            "_*_", (a, b) -> a * b,
            "_/_", (a, b) -> a / b,
            "_%_", (a, b) -> a % b);

    private MixedArithmetic() {}

    static List<CelFunctionDecl> declarations() {
        List<CelFunctionDecl> declarations = new ArrayList<>();
        for (String operator : OPERATORS.keySet()) {
            List<CelOverloadDecl> overloads = new ArrayList<>(List.of(
                    CelOverloadDecl.newGlobalOverload(
                            id(operator, "double_int"), SimpleType.DOUBLE, SimpleType.DOUBLE, SimpleType.INT),
                    CelOverloadDecl.newGlobalOverload(
                            id(operator, "int_double"), SimpleType.DOUBLE, SimpleType.INT, SimpleType.DOUBLE)));
            if (operator.equals("_%_")) {
                overloads.add(CelOverloadDecl.newGlobalOverload(
                        id(operator, "double_double"), SimpleType.DOUBLE, SimpleType.DOUBLE, SimpleType.DOUBLE));
            }
            declarations.add(CelFunctionDecl.newFunctionDeclaration(operator, overloads));
        }
        // Evaluation compares numbers of any type; the checker has to be told that an int may be compared to a double.
        for (String equality : List.of("_==_", "_!=_")) {
            declarations.add(CelFunctionDecl.newFunctionDeclaration(
                    equality,
                    CelOverloadDecl.newGlobalOverload(
                            equality + "double_int", SimpleType.BOOL, SimpleType.DOUBLE, SimpleType.INT),
                    CelOverloadDecl.newGlobalOverload(
                            equality + "int_double", SimpleType.BOOL, SimpleType.INT, SimpleType.DOUBLE)));
        }
        return declarations;
    }

    /** The planner runtime finds an added overload of a standard operator only if it is bound under its function. */
    static List<CelFunctionBinding> bindings() {
        List<CelFunctionBinding> bindings = new ArrayList<>();
        OPERATORS.forEach((operator, work) -> {
            List<CelFunctionBinding> overloads = new ArrayList<>(List.of(
                    CelFunctionBinding.from(
                            id(operator, "double_int"),
                            Double.class,
                            Long.class,
                            (a, b) -> work.applyAsDouble(a, b.doubleValue())),
                    CelFunctionBinding.from(
                            id(operator, "int_double"),
                            Long.class,
                            Double.class,
                            (a, b) -> work.applyAsDouble(a.doubleValue(), b))));
            if (operator.equals("_%_")) {
                overloads.add(CelFunctionBinding.from(
                        id(operator, "double_double"), Double.class, Double.class, (a, b) -> work.applyAsDouble(a, b)));
            }
            if (operator.equals("_+_")) {
                overloads.add(TextFunctions.concatenation());
            }
            bindings.addAll(CelFunctionBinding.fromOverloads(operator, overloads));
        });
        return bindings;
    }

    private static String id(String operator, String types) {
        return switch (operator) {
            case "_+_" -> "add_" + types;
            case "_-_" -> "subtract_" + types;
            case "_*_" -> "multiply_" + types;
            case "_/_" -> "divide_" + types;
            default -> "modulo_" + types;
        };
    }
}
