package org.holtra.core.expression;

import dev.cel.common.CelFunctionDecl;
import dev.cel.common.CelOverloadDecl;
import dev.cel.common.types.CelType;
import dev.cel.common.types.SimpleType;
import dev.cel.runtime.CelFunctionBinding;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.util.ArrayList;
import java.util.List;
import org.holtra.core.unit.Units;

/**
 * The functions that expressions have beside CEL's own: {@code convert(x, "Wh", "kWh")} between UCUM units, and
 * {@code round(x, digits)} to so many decimals, halves away from zero.
 */
final class OwnFunctions {

    private static final int MOST_DIGITS = 15;

    private OwnFunctions() {}

    static List<CelFunctionDecl> declarations() {
        return List.of(
                CelFunctionDecl.newFunctionDeclaration(
                        "convert",
                        convert("convert_double", SimpleType.DOUBLE),
                        convert("convert_int", SimpleType.INT)),
                CelFunctionDecl.newFunctionDeclaration(
                        "round",
                        CelOverloadDecl.newGlobalOverload(
                                "round_double_int", SimpleType.DOUBLE, SimpleType.DOUBLE, SimpleType.INT),
                        CelOverloadDecl.newGlobalOverload(
                                "round_int_int", SimpleType.DOUBLE, SimpleType.INT, SimpleType.INT)));
    }

    private static CelOverloadDecl convert(String id, CelType number) {
        return CelOverloadDecl.newGlobalOverload(id, SimpleType.DOUBLE, number, SimpleType.STRING, SimpleType.STRING);
    }

    static List<CelFunctionBinding> bindings() {
        List<CelFunctionBinding> bindings = new ArrayList<>();
        bindings.addAll(CelFunctionBinding.fromOverloads(
                "convert",
                List.of(
                        CelFunctionBinding.from(
                                "convert_double",
                                List.of(Double.class, String.class, String.class),
                                given -> Units.convert((Double) given[0], (String) given[1], (String) given[2])),
                        CelFunctionBinding.from(
                                "convert_int",
                                List.of(Long.class, String.class, String.class),
                                given -> Units.convert((Long) given[0], (String) given[1], (String) given[2])))));
        bindings.addAll(CelFunctionBinding.fromOverloads(
                "round",
                List.of(
                        CelFunctionBinding.from("round_double_int", Double.class, Long.class, OwnFunctions::round),
                        CelFunctionBinding.from(
                                "round_int_int", Long.class, Long.class, (x, digits) -> round(x, digits)))));
        return bindings;
    }

    private static double round(double value, long digits) {
        if (digits < -MOST_DIGITS || digits > MOST_DIGITS) {
            throw new IllegalArgumentException("round() takes -15 to 15 digits, not " + digits);
        }
        return Double.isFinite(value)
                ? BigDecimal.valueOf(value)
                        .setScale((int) digits, RoundingMode.HALF_UP)
                        .doubleValue()
                : value;
    }
}
