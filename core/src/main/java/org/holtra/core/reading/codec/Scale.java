package org.holtra.core.reading.codec;

import java.math.BigDecimal;

/**
 * {@code value = raw × factor + offset}, worked in whole numbers over a power of ten, so that 215 × 0.1 is 21.5 and not
 * 21.500000000000004: where numerator and denominator are exact in a double, one division rounds correctly (IEEE 754).
 */
final class Scale {

    static final Scale NONE = new Scale(BigDecimal.ONE, BigDecimal.ZERO);

    private final double numerator;
    private final double shift;
    private final double denominator;
    private final boolean plain;

    Scale(BigDecimal factor, BigDecimal offset) {
        int digits = Math.max(0, Math.max(factor.scale(), offset.scale()));
        numerator = factor.movePointRight(digits).doubleValue();
        shift = offset.movePointRight(digits).doubleValue();
        denominator = Math.pow(10, digits);
        plain = factor.compareTo(BigDecimal.ONE) == 0 && offset.signum() == 0;
    }

    boolean plain() {
        return plain;
    }

    double value(double raw) {
        return (raw * numerator + shift) / denominator;
    }

    double raw(double value) {
        return (value * denominator - shift) / numerator;
    }
}
