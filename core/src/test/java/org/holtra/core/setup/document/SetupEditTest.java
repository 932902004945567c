package org.holtra.core.setup.document;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatIllegalArgumentException;

import org.holtra.core.setup.SetupSamples;
import org.holtra.core.setup.compile.CodecText;
import org.junit.jupiter.api.Test;

public class SetupEditTest {

    private static final String SETUP = """
            # ours
            models:
              # stations
              station:
                codec:
                  layout:
                    fields:
                      - {name: t, bits: 8}   # degrees

                facts: {mast: false}
              gauge:
                silentAfter: 3h

            inlets: {}
            """;

    @Test
    void putsAScriptInPlaceOfALayoutAndLeavesTheRest() {
        String edited =
                new SetupEdit(SETUP).withCodec("station", "script", "function decodeUplink(i) {\n  return {};\n}\n");

        assertThat(edited).isEqualTo("""
                # ours
                models:
                  # stations
                  station:
                    codec:
                      script: |
                        function decodeUplink(i) {
                          return {};
                        }

                    facts: {mast: false}
                  gauge:
                    silentAfter: 3h

                inlets: {}
                """);
        assertThat(new SetupEdit(edited).codec("station")).contains("function decodeUplink(i) {\n  return {};\n}\n");
        assertThat(SetupSamples.compile(edited).models().get("station").facts()).containsEntry("mast", false);
    }

    @Test
    void givesALayoutAsItsOwnText() {
        assertThat(new SetupEdit(SETUP).codec("station")).contains("fields:\n  - {name: t, bits: 8}   # degrees");
        assertThat(new SetupEdit(SETUP).codec("gauge")).isEmpty();
    }

    @Test
    void addsACodecToAModelThatHasNone() {
        String edited = new SetupEdit(SETUP).withCodec("gauge", "layout", "fields:\n  - {name: mm, bits: 8}");

        assertThat(edited)
                .contains(
                        "  gauge:\n    codec:\n      layout:\n        fields:\n          - {name: mm, bits: 8}\n    silentAfter: 3h");
        assertThat(SetupSamples.compile(edited).models()).hasSize(2);
    }

    @Test
    void addsAModelWhereThereIsNone() {
        assertThat(SetupSamples.compile(new SetupEdit(SETUP).withCodec("probe", "layout", "fields: []"))
                        .models())
                .containsKeys("probe", "station", "gauge");
        assertThat(SetupSamples.compile(new SetupEdit("").withCodec("probe", "layout", "fields: []"))
                        .models())
                .containsOnlyKeys("probe");
    }

    @Test
    void refusesAModelInBraces() {
        assertThatIllegalArgumentException()
                .isThrownBy(() -> new SetupEdit("models:\n  m: {facts: {}}\n").withCodec("m", "script", "x"))
                .withMessageContaining("written in braces");
    }

    @Test
    void tellsWhatIsWrongInALayoutAtItsOwnLine() {
        var problems = CodecText.layout("fields:\n  - {name: a, bits: 8}\n  - {name: b, bitts: 8}\n")
                .problems();

        assertThat(problems).allMatch(problem -> problem.line() == 3);
        assertThat(problems).anyMatch(problem -> problem.what().contains("did you mean `bits`?"));
        assertThat(CodecText.layout("fields:\n  - {name: a, bits: 8}\n").codec())
                .isPresent();
    }
}
