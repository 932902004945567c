package org.holtra.core.reading.codec;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatIllegalArgumentException;

import java.util.HexFormat;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class PastedBytesTest {

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            ff38              | ff38
            FF 38             | ff38
            ff:38             | ff38
            0xff, 0x38        | ff38
            FF-38             | ff38
            /zg=              | ff38
            ''                | ''
            """)
    void readsHexadecimalHoweverItIsWrittenAndElseBase64(String text, String hex) {
        assertThat(HexFormat.of().formatHex(PastedBytes.parse(text))).isEqualTo(hex);
    }

    @Test
    void refusesWhatIsNeither() {
        assertThatIllegalArgumentException().isThrownBy(() -> PastedBytes.parse("%%"));
    }
}
