package org.holtra.service.devices;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class SpreadsheetCellTest {

    @ParameterizedTest
    @CsvSource(
            quoteCharacter = '"',
            value = {
                "=1+1, '=1+1",
                "+cmd, '+cmd",
                "-x, '-x",
                "@sum, '@sum",
                "'=1, ''=1",
                "-12.5, -12.5",
                "+3e5, +3e5",
                "plain, plain",
                "it's, it's",
                "'quoted', 'quoted'",
            })
    void whatBeginsLikeAFormulaStaysText(String text, String cell) {
        assertThat(SpreadsheetCell.of(text)).isEqualTo(cell);
        assertThat(SpreadsheetCell.text(cell)).isEqualTo(text);
    }
}
