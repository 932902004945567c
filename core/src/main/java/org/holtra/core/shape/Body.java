package org.holtra.core.shape;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.dataformat.cbor.CBORMapper;
import tools.jackson.dataformat.csv.CsvMapper;
import tools.jackson.dataformat.csv.CsvSchema;
import tools.jackson.dataformat.csv.CsvWriteFeature;

/** How a body is written. */
sealed interface Body {

    String contentType();

    byte[] write(Scope scope) throws ShapeFailure;

    /** What it is filled from; null if it is no tree. */
    default Tree tree() {
        return null;
    }

    private static Object filled(Tree tree, Scope scope) throws ShapeFailure {
        Object content = tree == null ? Plain.of(scope.data()) : tree.fill(scope, "body", new Parts());
        return content == Tree.ABSENT ? null : content;
    }

    /** JSON (RFC 8259). */
    record Json(Tree tree) implements Body {
        private static final JsonMapper JSON = JsonMapper.shared();

        @Override
        public String contentType() {
            return "application/json";
        }

        @Override
        public byte[] write(Scope scope) throws ShapeFailure {
            Object content = filled(tree, scope);
            return BoundedBytes.written(out -> JSON.writeValue(out, content));
        }
    }

    /** CBOR (RFC 8949). */
    record Cbor(Tree tree) implements Body {
        private static final CBORMapper CBOR = new CBORMapper();

        @Override
        public String contentType() {
            return "application/cbor";
        }

        @Override
        public byte[] write(Scope scope) throws ShapeFailure {
            Object content = filled(tree, scope);
            return BoundedBytes.written(out -> CBOR.writeValue(out, content));
        }
    }

    record Text(Template template) implements Body {
        @Override
        public String contentType() {
            return "text/plain; charset=utf-8";
        }

        @Override
        public byte[] write(Scope scope) throws ShapeFailure {
            return template.text(scope, "body", text -> text).getBytes(java.nio.charset.StandardCharsets.UTF_8);
        }
    }

    /** Names and values as a web form sends them (WHATWG URL, section 5.2). A list gives its name once for each element. */
    record Form(Tree tree) implements Body {
        @Override
        public String contentType() {
            return "application/x-www-form-urlencoded";
        }

        @Override
        public byte[] write(Scope scope) throws ShapeFailure {
            StringBuilder form = new StringBuilder();
            for (Map.Entry<?, ?> field : fields(filled(tree, scope)).entrySet()) {
                List<?> values = field.getValue() instanceof List<?> list ? list : List.of(orEmpty(field.getValue()));
                for (Object value : values) {
                    form.append(form.isEmpty() ? "" : "&")
                            .append(Encoding.form(field.getKey().toString()))
                            .append('=')
                            .append(Encoding.form(Plain.text(flat(value, "a form", field.getKey()))));
                }
            }
            return form.toString().getBytes(java.nio.charset.StandardCharsets.US_ASCII);
        }
    }

    /**
     * Lines of values (RFC 4180), ended by CRLF.
     *
     * @param columns their names; empty to take those of the first line
     * @param header whether the first line names the columns
     */
    record Csv(Tree tree, List<String> columns, boolean header, char separator) implements Body {
        private static final CsvMapper CSV = CsvMapper.builder()
                .enable(CsvWriteFeature.STRICT_CHECK_FOR_QUOTING)
                .build();

        @Override
        public String contentType() {
            return header ? "text/csv; charset=utf-8; header=present" : "text/csv; charset=utf-8; header=absent";
        }

        @Override
        public byte[] write(Scope scope) throws ShapeFailure {
            List<Map<?, ?>> lines = new ArrayList<>();
            Object content = filled(tree, scope);
            for (Object line : content instanceof List<?> many ? many : List.of(orEmpty(content))) {
                lines.add(fields(line));
            }
            List<String> names = columns.isEmpty() && !lines.isEmpty()
                    ? lines.getFirst().keySet().stream().map(Object::toString).toList()
                    : columns;
            CsvSchema schema =
                    CsvSchema.emptySchema().withColumnSeparator(separator).withLineSeparator("\r\n");
            List<List<Object>> table = new ArrayList<>();
            if (header) {
                table.add(List.copyOf(names));
            }
            for (Map<?, ?> line : lines) {
                List<Object> cells = new ArrayList<>();
                for (String name : names) {
                    cells.add(Plain.text(flat(line.get(name), "a CSV line", name)));
                }
                table.add(cells);
            }
            return BoundedBytes.written(out -> CSV.writer(schema).writeValue(out, table));
        }
    }

    record None() implements Body {
        @Override
        public String contentType() {
            return null;
        }

        @Override
        public byte[] write(Scope scope) {
            return new byte[0];
        }
    }

    private static Object orEmpty(Object value) {
        return value == null ? "" : value;
    }

    private static Map<?, ?> fields(Object content) throws ShapeFailure {
        if (content instanceof Map<?, ?> map) {
            return map;
        }
        throw new ShapeFailure("body", "names with values are wanted, not " + Plain.brief(content), false);
    }

    private static Object flat(Object value, String what, Object name) throws ShapeFailure {
        if (value instanceof Map<?, ?> || value instanceof List<?>) {
            throw new ShapeFailure("body." + name, what + " cannot hold " + Plain.brief(value), false);
        }
        return value;
    }
}
