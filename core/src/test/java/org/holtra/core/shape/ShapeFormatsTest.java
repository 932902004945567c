package org.holtra.core.shape;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.Scope;
import org.holtra.core.reading.content.JsonFormat;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.dataformat.cbor.CBORMapper;

class ShapeFormatsTest {

    private static final List<ShapeField> FIELDS = List.of(
            ShapeField.text("path", text -> "<" + text + ">"),
            ShapeField.named("query", text -> text),
            ShapeField.named("headers", text -> text));

    private static final String DATA = """
            {"t": 21.5, "name": "row 4; \\"B\\"", "none": null, "list": [1, 2.5],
             "samples": [{"depth": 10, "value": 31.5, "good": true}, {"depth": 30, "value": 28, "good": false},
                         {"depth": 60, "good": true}]}""";

    private static Content fill(String shape) throws Exception {
        Map<?, ?> source =
                (Map<?, ?>) new JsonFormat().parse(shape.replace('\'', '"').getBytes(StandardCharsets.UTF_8));
        ShapeCompiler compiler = new ShapeCompiler(new ExpressionCompiler(), FIELDS);
        Shape compiled = compiler.compile(source);
        assertThat(compiler.misfits()).isEmpty();
        Object data = new JsonFormat().parse(DATA.getBytes(StandardCharsets.UTF_8));
        return compiled.fill(new Scope(data, Map.of(), Map.of("key", "cs-07")));
    }

    private static String text(String shape) throws Exception {
        return new String(fill(shape).body(), StandardCharsets.UTF_8);
    }

    @Test
    void aPartRepeatsOverAList() throws Exception {
        assertThat(text("{'body': {'all': {'$each': 'data.samples', '$as': 's', '$when': 's.good',"
                        + " '$give': {'d': '${s.depth}', 'v?': '${s.value}'}}}}"))
                .isEqualTo("{\"all\":[{\"d\":10,\"v\":31.5},{\"d\":60}]}");
    }

    @Test
    void whatRepeatsInsideAListIsPutInAtItsPlace() throws Exception {
        assertThat(text("{'body': ['first', {'$each': 'data.list', '$give': '${item * 2}'}, 'last']}"))
                .isEqualTo("[\"first\",2,5,\"last\"]");
    }

    @Test
    void repeatsMayStandInsideRepeats() throws Exception {
        assertThat(text("{'body': {'$each': 'data.list', '$as': 'a', '$give':"
                        + " {'$each': 'data.list', '$as': 'b', '$give': '${a + b}'}}}"))
                .isEqualTo("[[2,3.5],[3.5,5]]");
    }

    @Test
    void allFieldsCanBeWalkedOver() throws Exception {
        assertThat(text(
                        "{'body': {'$each': 'entries({\\'a\\': {\\'b\\': data.t}})', '$give': '${item.name}=${item.value}'}}"
                                .replace("\\'", "\\u0027")))
                .isEqualTo("[\"a.b=21.5\"]");
    }

    @Test
    void optionalPartsVanishWithTheFieldTheyNeed() throws Exception {
        assertThat(text("{'body': {'a?': '${data.nothing}', 'b?': {'x': 1, 'y': '${data.nothing.at.all}'},"
                        + " 'c?': '${data.none}', 'd?': '${data.t}', 'e': {'$when': 'data.t > 30', '$give': 1}}}"))
                .isEqualTo("{\"d\":21.5}");
    }

    @Test
    void anOptionalPartStillFailsForAnythingButAMissingField() {
        assertThatThrownBy(() -> text("{'body': {'a?': '${data.t / 0 > 1 ? data.name + 1 : 2}'}}"))
                .isInstanceOf(ShapeFailure.class)
                .hasMessageContaining("body.a");
    }

    @Test
    void tellsWhatIsLeftOutAndWhy() throws Exception {
        Map<?, ?> source = Map.of(
                "query", Map.of("q?", "${data.no}"),
                "body",
                        Map.of(
                                "a?",
                                "${data.nothing}",
                                "in",
                                Map.of("$each", "data.samples", "$give", Map.of("v?", "${item.value}"))));
        Shape shape = new ShapeCompiler(new ExpressionCompiler(), FIELDS).compile(source);
        Object data = new JsonFormat().parse(DATA.getBytes(StandardCharsets.UTF_8));

        assertThat(shape.leftOut(new Scope(data, Map.of(), Map.of())))
                .extracting(one -> one.where() + ": " + one.why())
                .containsExactlyInAnyOrder(
                        "query.q: data.no is not there",
                        "body.a: data.nothing is not there",
                        "body.in[2].v: a field it reads is not there");
    }

    @Test
    void namesMayBeTemplatesAndSignsDoubled() throws Exception {
        assertThat(text("{'body': {'${device.key}.t': '${data.t}', 'really??': 1, '$$each': 2}}"))
                .isEqualTo("{\"cs-07.t\":21.5,\"really?\":1,\"$each\":2}");
    }

    @Test
    void aTextIsOneTemplate() throws Exception {
        Content content = fill("{'format': 'text', 'body': 'weather,mast=${device.key} t=${data.t}'}");

        assertThat(new String(content.body(), StandardCharsets.UTF_8)).isEqualTo("weather,mast=cs-07 t=21.5");
        assertThat(content.contentType()).isEqualTo("text/plain; charset=utf-8");
    }

    @Test
    void aFormEncodesNamesAndValuesAndRepeatsLists() throws Exception {
        Content content = fill(
                "{'format': 'form', 'body': {'the name': '${data.name}', 'n': '${data.list}', 'x?': '${data.no}'}}");

        assertThat(new String(content.body(), StandardCharsets.UTF_8)).isEqualTo("the+name=row+4%3B+%22B%22&n=1&n=2.5");
        assertThat(content.contentType()).isEqualTo("application/x-www-form-urlencoded");
    }

    @Test
    void aCsvLineQuotesWhatNeedsItAndKeepsTheColumnOfAnAbsentField() throws Exception {
        Content content = fill("{'format': 'csv', 'csv': {'separator': ';'},"
                + " 'body': {'mast': '${device.key}', 'gust?': '${data.gust}', 'name': '${data.name}'}}");

        assertThat(new String(content.body(), StandardCharsets.UTF_8))
                .isEqualTo("mast;gust;name\r\ncs-07;;\"row 4; \"\"B\"\"\"\r\n");
        assertThat(content.contentType()).isEqualTo("text/csv; charset=utf-8; header=present");
    }

    @Test
    void csvMayHaveManyLinesAndNoHeader() throws Exception {
        assertThat(text("{'format': 'csv', 'csv': {'header': false}, 'body':"
                        + " {'$each': 'data.samples', '$give': {'d': '${item.depth}', 'v?': '${item.value}'}}}"))
                .isEqualTo("10,31.5\r\n30,28\r\n60,\r\n");
    }

    @Test
    void cborIsWhatItsReaderReads() throws Exception {
        Content content = fill("{'format': 'cbor', 'body': {'t': '${data.t}', 'list': '${data.list}'}}");

        assertThat(new CBORMapper().readTree(content.body()).toString()).isEqualTo("{\"t\":21.5,\"list\":[1,2.5]}");
        assertThat(content.contentType()).isEqualTo("application/cbor");
    }

    @Test
    void queryParametersMayVanishToo() throws Exception {
        Content content = fill(
                "{'format': 'none', 'query': {'a?': '${data.no}', 'b': '${data.t}'}, 'headers': {'X-A?': '${data.no}'}}");

        assertThat(content.envelope().named("query")).containsExactly(Map.entry("b", "21.5"));
        assertThat(content.envelope().named("headers")).isEmpty();
        assertThat(content.body()).isEmpty();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '~', textBlock = """
            {"body": {"$each": "data.list"}}                       | /body              | $give is missing: what is to be sent
            {"body": {"$give": 1}}                                 | /body              | $give needs $each or $when beside it
            {"body": {"$each": "data.list", "$give": 1, "x": 2}}   | /body/x            | `x` stands beside $each; what is to be sent belongs below $give
            {"body": {"$each": "data.list", "$as": "data", "$give": 1}} | /body/$as     | `data` cannot name an element: letters and digits, and not data, meta or device
            {"body": {"$each": "data.list", "$give": "${elem}"}}   | /body/$give        | nothing is called `elem`: an expression sees data, meta and device, and text stands in quotes
            {"format": "text", "body": {"a": 1}}                   | /body              | a text's body is one template, not an object or a list
            {"format": "form", "body": [1]}                        | /body              | a form's body is an object: names with values
            {"format": "csv", "body": {"a": {"b": 1}}}             | /body              | a CSV line has values, not objects or lists, inside it
            {"format": "none", "body": 1}                          | /body              | there is a body, but its format is `none`
            """)
    void saysWhatIsWrongAndWhere(String shape, String pointer, String what) throws Exception {
        ShapeCompiler compiler = new ShapeCompiler(new ExpressionCompiler(), FIELDS);
        compiler.compile((Map<?, ?>) new JsonFormat().parse(shape.getBytes(StandardCharsets.UTF_8)));

        assertThat(compiler.misfits()).extracting(ShapeCompiler.Misfit::pointer).containsExactly(pointer);
        assertThat(compiler.misfits()).extracting(ShapeCompiler.Misfit::what).containsExactly(what);
    }

    @Test
    void whatIsNoListIsNotRepeatedOver() {
        Map<String, Object> shape = Map.of("body", Map.of("$each", "data.t", "$give", 1L));
        Shape compiled = new ShapeCompiler(new ExpressionCompiler(), FIELDS).compile(shape);

        assertThatThrownBy(() -> compiled.fill(new Scope(Map.of("t", 1.0), Map.of(), Map.of())))
                .hasMessage("the shape could not be filled at body.$each: `data.t` is no list but 1");
    }
}
