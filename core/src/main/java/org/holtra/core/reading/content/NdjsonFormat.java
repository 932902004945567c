package org.holtra.core.reading.content;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/**
 * JSON values, a line each, as {@code lines}. A line that is not JSON is a text: it is for whoever reads it to say what is
 * wrong with it, and does not harm the other lines.
 */
final class NdjsonFormat implements Format.Parser {

    private final JsonFormat json = new JsonFormat();

    @Override
    public Object parse(byte[] body) throws UnreadableContent {
        List<Object> lines = new ArrayList<>();
        for (String line : TextFormat.utf8(body).lines().toList()) {
            if (!line.isBlank()) {
                lines.add(value(line));
                Bounds.check(lines.size());
            }
        }
        return Map.of("lines", lines);
    }

    private Object value(String line) {
        try {
            return json.parse(line.getBytes(StandardCharsets.UTF_8));
        } catch (UnreadableContent e) {
            return line;
        }
    }
}
