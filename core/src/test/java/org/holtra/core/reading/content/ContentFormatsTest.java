package org.holtra.core.reading.content;

import static java.nio.charset.StandardCharsets.ISO_8859_1;
import static java.nio.charset.StandardCharsets.UTF_8;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.ByteArrayOutputStream;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.EnumSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Bodies as careless senders write them, and as hostile ones do. */
class ContentFormatsTest {

    private static Object read(Format format, String body) throws UnreadableContent {
        return format.parse(body.getBytes(UTF_8));
    }

    @SuppressWarnings("unchecked")
    private static Map<String, Object> fields(Format format, String body) throws UnreadableContent {
        return (Map<String, Object>) read(format, body);
    }

    @ParameterizedTest
    @EnumSource(
            value = Format.class,
            names = {"CSV", "TEXT", "JSON", "XML"})
    void aByteOrderMarkIsNoPartOfTheContent(Format format) throws UnreadableContent {
        String body = Map.of(
                        Format.CSV,
                        "t,h\n1,2",
                        Format.TEXT,
                        "7",
                        Format.JSON,
                        "{\"t\":1}",
                        Format.XML,
                        "<m><t>1</t></m>")
                .get(format);

        assertThat(read(format, "\uFEFF" + body)).isEqualTo(read(format, body));
    }

    @ParameterizedTest
    @EnumSource(
            value = Format.class,
            names = {"CSV", "TEXT"})
    void textThatIsNotUtf8IsNotGuessedAt(Format format) {
        assertThatThrownBy(() -> format.parse("21,5 °C".getBytes(ISO_8859_1)))
                .isInstanceOf(UnreadableContent.class)
                .hasMessageStartingWith("the body is not text in UTF-8");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            007      | 007
            0.5      | 0.5
            -3       | -3.0
            +3       | 3.0
            .5       | 0.5
            1e3      | 1000.0
            1e999    | 1e999
            0x10     | 0x10
            NaN      | NaN
            1 000    | 1 000
            0        | 0.0
            00       | 00
            """)
    void onlyWhatIsPlainlyANumberIsOne(String text, String value) {
        assertThat(TextFormat.value(text)).hasToString(value);
    }

    @Test
    void csvMayHaveQuotedValuesWithSeparatorsQuotesAndLineEndsInThem() throws UnreadableContent {
        assertThat(fields(Format.CSV, "name,note\r\n\"row 7, north\",\"he said \"\"wet\"\"\nand left\"\r\n")
                        .get("rows"))
                .isEqualTo(List.of(Map.of("name", "row 7, north", "note", "he said \"wet\"\nand left")));
    }

    @ParameterizedTest
    @ValueSource(strings = {"t,h\n1,2", "t;h\n1;2", "t\th\n1\t2", "t , h \n 1 , 2 ", "t,h\n\n1,2\n\n"})
    void csvIsReadWithWhicheverSeparatorItsFirstLineHas(String body) throws UnreadableContent {
        assertThat(fields(Format.CSV, body)).containsEntry("t", 1.0).containsEntry("h", 2.0);
    }

    @Test
    void csvOfSeveralRowsHasNoFieldsOfItsOwn() throws UnreadableContent {
        Map<String, Object> fields = fields(Format.CSV, "t,h\n1,2\n3,4");

        assertThat(fields).containsOnlyKeys("lines", "rows");
        assertThat(fields.get("rows")).isEqualTo(List.of(Map.of("t", 1.0, "h", 2.0), Map.of("t", 3.0, "h", 4.0)));
    }

    @Test
    void csvRowsThatAreTooShortOrTooLongKeepWhatHasAName() throws UnreadableContent {
        assertThat(fields(Format.CSV, "t,h\n1\n3,4,5").get("rows"))
                .isEqualTo(List.of(Map.of("t", 1.0), Map.of("t", 3.0, "h", 4.0)));
    }

    @Test
    void csvOfNumbersAloneHasNoNames() throws UnreadableContent {
        assertThat(fields(Format.CSV, "1,2\n3,4")).containsOnlyKeys("lines");
    }

    @Test
    void ndjsonIsAListOfItsLinesOfWhichABrokenOneIsText() throws UnreadableContent {
        assertThat(fields(Format.NDJSON, "{\"t\":1}\n\n{\"t\":\r\n[2]\n").get("lines"))
                .isEqualTo(List.of(Map.of("t", 1.0), "{\"t\":", List.of(2.0)));
        assertThat(Format.ofContentType("application/x-ndjson; charset=utf-8")).isEqualTo(Format.NDJSON);
    }

    @Test
    void aFormThatNamesAFieldTwiceHasBothValues() throws UnreadableContent {
        assertThat(fields(Format.FORM, "t=1&t=2&empty=&plus=a+b&%C3%A4=1"))
                .containsEntry("t", List.of(1.0, 2.0))
                .containsEntry("empty", "")
                .containsEntry("plus", "a b")
                .containsEntry("\u00e4", 1.0);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "<!DOCTYPE m [<!ENTITY a \"1\">]><m>&a;</m>",
                "<m>&undeclared;</m>",
                "<m><a></m>",
                "<m></m><m></m>"
            })
    void xmlThatDeclaresEntitiesOrIsBrokenIsUnreadable(String body) {
        assertThatThrownBy(() -> read(Format.XML, body))
                .isInstanceOf(UnreadableContent.class)
                .hasMessageStartingWith("the body is not XML");
    }

    @ParameterizedTest
    @CsvSource({
        "81818181818181818181818181818181818181818181818181818181818181f6, nested arrays",
        "c1c1c1c1c1c1c1c1c1f6, tags",
        "5bffffffffffffffff, a length beyond the end",
        "9bffffffffffffffff, an array of endless length",
        "bb7fffffffffffffff, a map of endless length",
        "ff, a break without a beginning",
        "1c, a reserved head"
    })
    void cborThatLiesAboutItsSizeIsUnreadableAtOnce(String hex, String what) {
        byte[] body = HexFormat.of().parseHex(hex);
        try {
            assertThat(Format.CBOR.parse(body)).as(what).isInstanceOf(List.class);
        } catch (UnreadableContent e) {
            assertThat(e.getMessage()).as(what).startsWith("the body");
        }
    }

    @ParameterizedTest
    @ValueSource(ints = {1_000, 100_000, 1_000_000})
    void nestingWithoutEndIsUnreadableInEveryFormat(int depth) {
        for (String body : List.of("[".repeat(depth), "{\"a\":".repeat(depth))) {
            assertThatThrownBy(() -> read(Format.JSON, body)).isInstanceOf(UnreadableContent.class);
        }
        assertThatThrownBy(() -> read(Format.XML, "<a>".repeat(depth))).isInstanceOf(UnreadableContent.class);
        assertThatThrownBy(() -> Format.CBOR.parse(repeated(0x81, depth))).isInstanceOf(UnreadableContent.class);
    }

    private static byte[] repeated(int one, int times) {
        byte[] all = new byte[times];
        Arrays.fill(all, (byte) one);
        return all;
    }

    /** Ten thousand bodies made of pieces that mean something in one format or another: each is read, or unreadable. */
    @ParameterizedTest
    @EnumSource(Format.class)
    void noBodyEndsInAnythingButContentOrAReason(Format format) {
        String[] pieces = {
            "{",
            "}",
            "[",
            "]",
            "\"",
            ":",
            ",",
            "null",
            "-",
            "1e400",
            "\\u0000",
            "\\ud800",
            "<a>",
            "</a>",
            "<!--",
            "&#x0;",
            "<![CDATA[",
            "%",
            "%2",
            "=",
            "&",
            ";",
            "\t",
            "\r\n",
            "\n",
            "\uFEFF",
            "\u0000",
            "é",
            "😀",
            " ",
            "a",
            "7",
            "\"\"\""
        };
        Random random = new Random(160_001 + format.ordinal());
        for (int number = 0; number < 10_000; number++) {
            ByteArrayOutputStream body = new ByteArrayOutputStream();
            int length = random.nextInt(30);
            for (int i = 0; i < length; i++) {
                if (random.nextInt(4) == 0) {
                    body.write(random.nextInt(256));
                } else {
                    body.writeBytes(pieces[random.nextInt(pieces.length)].getBytes(UTF_8));
                }
            }
            byte[] bytes = body.toByteArray();
            try {
                assertThat(format.parse(bytes)).isNotNull();
            } catch (UnreadableContent e) {
                assertThat(e.getMessage())
                        .as(HexFormat.of().formatHex(bytes))
                        .isNotBlank()
                        .doesNotContain("\n");
            }
        }
    }
}
