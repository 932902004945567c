package org.holtra.core.unit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatIllegalArgumentException;

import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class UnitsTest {

    @ParameterizedTest
    @CsvSource({
        "1500, W.h, kW.h, 1.5",
        "0, Cel, [degF], 32",
        "212, [degF], Cel, 100",
        "21.5, Cel, K, 294.65",
        "10, m/s, km/h, 36",
        "1, m3, L, 1000",
        "0.5, 1, %, 50",
        "1, bar, kPa, 100",
        "2, h, min, 120",
        "3, mm, cm, 0.3"
    })
    void converts(double value, String from, String to, double result) {
        assertThat(Units.convert(value, from, to)).isEqualTo(result);
    }

    @Test
    void refusesUnitsOfDifferentThings() {
        assertThatIllegalArgumentException()
                .isThrownBy(() -> Units.convert(1, "Cel", "kW.h"))
                .withMessage("`Cel` and `kW.h` measure different things");
    }

    @ParameterizedTest
    @ValueSource(strings = {"furlongs", "°C", "kWh", "", "m//s", "(", "☃"})
    void refusesWhatUcumHasNot(String code) {
        assertThatIllegalArgumentException()
                .isThrownBy(() -> Units.check(code))
                .withMessage("UCUM has no unit `" + code + "`");
    }
}
