package org.holtra.core.reading.codec;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.snakeyaml.engine.v2.api.Load;
import org.snakeyaml.engine.v2.api.LoadSettings;

class LayoutTest {

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            {name: v, bits: 8}                                      | ff       | 255.0
            {name: v, bits: 16, type: signed, scale: 0.01}          | ff38     | -2.0
            {name: v, bits: 16, type: signed, scale: 0.1}           | 00d7     | 21.5
            {name: v, bits: 16, order: little}                      | 3412     | 4660.0
            {name: v, bits: 8, type: sign-magnitude}                | 85       | -5.0
            {name: v, bits: 12}                                     | abc0     | 2748.0
            {name: v, bits: 12, order: little}                      | bc0a     | 2748.0
            {name: v, bits: 64}                                     | 7fffffffffffffff | 9223372036854775807
            {name: v, bits: 60, type: signed}                       | fffffffffffffff0 | -1.0
            {name: v, type: float16}                                | 3c00     | 1.0
            {name: v, type: float32}                                | 41aa6666 | 21.3
            {name: v, type: float64, order: little}                 | 000000000000f03f | 1.0
            {name: v, bits: 16, type: bcd, scale: 0.1}              | 1234     | 123.4
            {name: v, bytes: 4, type: ascii}                        | 6f6b0000 | ok
            {name: v, bytes: 3, type: hex}                          | 0a0B0c   | 0a0b0c
            {name: v, type: bool}                                   | 80       | true
            {name: v, bits: 8, type: enum, values: {1: on, 2: off}} | 02       | off
            {name: v, bits: 8, type: enum, values: {1: on, 2: off}} | 07       | 7.0
            {name: v, bits: 8, scale: 0.5, offset: -40}             | 78       | 20.0
            """)
    void decodesEachTypeOfField(String field, String hex, String value) {
        Decoded decoded = layout("fields: [" + field + "]").decode(bytes(hex), null);

        assertThat(decoded.errors()).isEmpty();
        assertThat(decoded.data().get("v")).hasToString(value);
    }

    @Test
    void namesTheBitsOfFlags() {
        Layout layout = layout("fields: [{name: state, bits: 8, type: flags, flags: {0: open, 7: wet}}]");

        assertThat(layout.decode(bytes("80"), null).data())
                .isEqualTo(Map.of("state", Map.of("open", false, "wet", true)));
        assertThat(layout.encode(Map.of("state", Map.of("open", true)), null).bytes())
                .containsExactly(1);
    }

    @Test
    void leavesOutAValueThatMeansThereIsNone() {
        Layout layout =
                layout("fields: [{name: t, bits: 16, type: signed, absent: [-32768, 0x7fff]}, {name: h, bits: 8}]");

        assertThat(layout.decode(bytes("800040"), null).data()).isEqualTo(Map.of("h", 64.0));
        assertThat(layout.decode(bytes("7fff40"), null).data()).isEqualTo(Map.of("h", 64.0));
        assertThat(layout.encode(Map.of("h", 64), null).bytes()).isEqualTo(bytes("800040"));
    }

    @Test
    void looksAtThePortAndAtEarlierFields() {
        Layout layout = layout("""
                fields:
                  - {name: kind, bits: 8, type: enum, values: {1: rain, 2: wind}}
                  - {name: rain, bits: 8, when: {kind: rain}}
                  - when: {kind: wind, port: [4, 5]}
                    fields: [{name: wind.speed, bits: 8}, {name: wind.gust, bits: 8}]
                """);

        assertThat(layout.decode(bytes("0109"), 4).data()).isEqualTo(Map.of("kind", "rain", "rain", 9.0));
        assertThat(layout.decode(bytes("020308"), 5).data())
                .isEqualTo(Map.of("kind", "wind", "wind", Map.of("speed", 3.0, "gust", 8.0)));
        assertThat(layout.decode(bytes("020308"), 6).warnings())
                .containsExactly("byte 1: 2 bytes more than the layout speaks of");
    }

    @Test
    void repeatsUntilTheEndOrAsOftenAsAFieldSays() {
        Layout rest = layout("fields: [{repeat: samples, fields: [{name: t, bits: 8}]}]");
        Layout counted = layout("""
                fields:
                  - {name: n, bits: 8}
                  - {repeat: samples, times: n, fields: [{name: t, bits: 8}]}
                  - {name: battery, bits: 8}
                """);

        assertThat(rest.decode(bytes("0102"), null).data())
                .isEqualTo(Map.of("samples", List.of(Map.of("t", 1.0), Map.of("t", 2.0))));
        assertThat(counted.decode(bytes("01075a"), null).data())
                .isEqualTo(Map.of("n", 1.0, "samples", List.of(Map.of("t", 7.0)), "battery", 90.0));
    }

    @Test
    void followsAStreamOfTags() {
        Layout layout = layout("""
                fields:
                  - tags:
                      bits: 16
                      cases:
                        0x0167: [{name: temperature, bits: 16, type: signed, scale: 0.1}]
                        0x0268: [{name: humidity, bits: 8, scale: 0.5}]
                """);

        assertThat(layout.decode(bytes("02687c0167ffce"), null).data())
                .isEqualTo(Map.of("humidity", 62.0, "temperature", -5.0));
        assertThat(layout.encode(Map.of("humidity", 62), null).bytes()).isEqualTo(bytes("02687c"));
        assertThat(layout.decode(bytes("02687c0999"), null).errors())
                .containsExactly("byte 3: the tag 0x0999 is not in the layout");
    }

    @Test
    void skipsUnknownTagsThatSayHowLongTheyAre() {
        Layout layout = layout("""
                fields:
                  - tags: {length: 8, unknown: skip, cases: {1: [{name: a, bits: 8}]}}
                """);

        Decoded decoded = layout.decode(bytes("0902ffff010105"), null);

        assertThat(decoded.data()).isEqualTo(Map.of("a", 5.0));
        assertThat(decoded.warnings()).containsExactly("byte 0: the tag 0x09 is not in the layout, and skipped");
        assertThat(layout.encode(Map.of("a", 5), null).bytes()).isEqualTo(bytes("010105"));
    }

    @Test
    void goesToAnOffset() {
        Layout layout = layout("fields: [{name: b, bits: 8, at: 2}, {name: a, bits: 8, at: 0}]");

        assertThat(layout.decode(bytes("010203"), null).data()).isEqualTo(Map.of("b", 3.0, "a", 1.0));
        assertThat(layout.encode(Map.of("a", 1, "b", 3), null).bytes()).isEqualTo(bytes("010003"));
    }

    @Test
    void tellsAtWhichByteAPayloadIsTooShort() {
        Decoded decoded =
                layout("fields: [{name: t, bits: 16}, {name: h, bits: 8}]").decode(bytes("0001"), null);

        assertThat(decoded.errors()).containsExactly("byte 2: `h` needs 1 byte, but the payload ends after 2 bytes");
        assertThat(decoded.data()).isEqualTo(Map.of("t", 1.0));
    }

    @Test
    void takesAPayloadThatEndsBeforeOptionalFields() {
        Layout layout = layout("fields: [{name: t, bits: 8}, {name: h, bits: 8, optional: true}]");

        assertThat(layout.decode(bytes("05"), null)).isEqualTo(new Decoded(Map.of("t", 5.0), List.of(), List.of()));
        assertThat(layout.encode(Map.of("t", 5), null).bytes()).isEqualTo(bytes("05"));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            {name: v, bits: 8}                                  | 256  | `v` is 256, 8 bits hold 0.0 to 255.0
            {name: v, bits: 8, type: signed}                    | -129 | `v` is -129, 8 bits hold -128.0 to 127.0
            {name: v, bits: 8}                                  |      | `v` is missing
            {name: v, bits: 8, type: enum, values: {1: on}}     | up   | `v` is up, one of on was expected
            {name: v, bits: 8, type: bcd}                       | 100  | `v` is 100, there is room for 2 digits
            """)
    void tellsWhatDoesNotFitWhenEncoding(String field, String value, String error) {
        Object given = value != null && value.matches("-?\\d+") ? Integer.valueOf(value) : value;
        Map<String, Object> data = given == null ? Map.of() : Map.of("v", given);

        assertThat(layout("fields: [" + field + "]").encode(data, null).errors())
                .containsExactly(error);
    }

    @Test
    void tellsWhatIsWrongInALayoutAndWhere() {
        Map<String, String> wrong = new LinkedHashMap<>();
        new LayoutCompiler(wrong::put).compile(yaml("""
                fields:
                  - {name: a}
                  - {name: b, bits: 65}
                  - {bits: 8}
                  - {name: c, bits: 8, type: flags}
                  - {repeat: d, fields: [{name: e, bits: 5, type: bcd}]}
                  - tags: {unknown: skip, cases: {zero: []}}
                """));

        assertThat(wrong)
                .containsExactly(
                        Map.entry("/fields/0", "say how long it is, with bits or bytes"),
                        Map.entry("/fields/1", "a number has at most 64 bits"),
                        Map.entry(
                                "/fields/2", "each part has one of name, skip, repeat, tags or fields, this has none"),
                        Map.entry("/fields/3", "say with flags which numbers have which names"),
                        Map.entry("/fields/4/fields/0", "bcd takes four bits a digit"),
                        Map.entry(
                                "/fields/5/tags/unknown",
                                "an unknown tag can only be skipped where a length follows each tag"),
                        Map.entry("/fields/5/tags/cases/zero", "`zero` is not a number such as 3 or 0x0367"));
    }

    static Layout layout(String yaml) {
        List<String> wrong = new ArrayList<>();
        Layout layout = new LayoutCompiler((pointer, what) -> wrong.add(pointer + ": " + what)).compile(yaml(yaml));
        assertThat(wrong).isEmpty();
        return layout;
    }

    private static Map<?, ?> yaml(String text) {
        return (Map<?, ?>) new Load(LoadSettings.builder().build()).loadFromString(text);
    }

    private static byte[] bytes(String hex) {
        return HexFormat.of().parseHex(hex);
    }
}
