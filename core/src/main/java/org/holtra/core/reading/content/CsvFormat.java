package org.holtra.core.reading.content;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.MappingIterator;
import tools.jackson.dataformat.csv.CsvMapper;
import tools.jackson.dataformat.csv.CsvReadFeature;
import tools.jackson.dataformat.csv.CsvSchema;

/**
 * Lines of values (RFC 4180), separated by commas, semicolons or tabs, whichever the first line has most of. They become
 * {@code lines}, a list of lists; where the first line holds names, {@code rows} too, a list of objects; and of a single row
 * its values under their names.
 */
final class CsvFormat implements Format.Parser {

    private static final CsvMapper CSV = CsvMapper.builder()
            .enable(CsvReadFeature.WRAP_AS_ARRAY, CsvReadFeature.TRIM_SPACES, CsvReadFeature.SKIP_EMPTY_LINES)
            .build();

    @Override
    public Object parse(byte[] body) throws UnreadableContent {
        String text = TextFormat.utf8(body);
        List<List<Object>> lines = new ArrayList<>();
        int count = 0;
        CsvSchema schema = CsvSchema.emptySchema().withColumnSeparator(separator(text));
        try (MappingIterator<String[]> rows =
                CSV.readerFor(String[].class).with(schema).readValues(text)) {
            while (rows.hasNext()) {
                List<Object> line = new ArrayList<>();
                for (String value : rows.next()) {
                    Bounds.check(++count);
                    line.add(TextFormat.value(value));
                }
                lines.add(line);
            }
        } catch (JacksonException e) {
            throw new UnreadableContent("the body is not CSV: " + e.getOriginalMessage());
        }
        Map<String, Object> fields = new LinkedHashMap<>();
        fields.put("lines", lines);
        if (lines.size() > 1
                && lines.getFirst().stream().allMatch(name -> name instanceof String text1 && !text1.isBlank())) {
            List<Map<String, Object>> rows = rows(lines);
            fields.put("rows", rows);
            if (rows.size() == 1) {
                rows.getFirst().forEach(fields::putIfAbsent);
            }
        }
        return fields;
    }

    private static List<Map<String, Object>> rows(List<List<Object>> lines) {
        List<Map<String, Object>> rows = new ArrayList<>();
        for (List<Object> line : lines.subList(1, lines.size())) {
            Map<String, Object> row = new LinkedHashMap<>();
            for (int i = 0; i < Math.min(line.size(), lines.getFirst().size()); i++) {
                row.put((String) lines.getFirst().get(i), line.get(i));
            }
            rows.add(row);
        }
        return rows;
    }

    private static char separator(String text) {
        String first = text.lines().findFirst().orElse("");
        char best = ',';
        for (char candidate : new char[] {';', '\t'}) {
            if (count(first, candidate) > count(first, best)) {
                best = candidate;
            }
        }
        return best;
    }

    private static long count(String text, char wanted) {
        return text.chars().filter(one -> one == wanted).count();
    }
}
