package org.holtra.core.reading.content;

import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** {@code application/x-www-form-urlencoded} (WHATWG URL, section 5). A name that comes again makes a list. */
final class FormFormat implements Format.Parser {

    @Override
    public Object parse(byte[] body) throws UnreadableContent {
        Map<String, List<Object>> found = new LinkedHashMap<>();
        int count = 0;
        for (String pair : TextFormat.utf8(body).strip().split("&")) {
            if (pair.isEmpty()) {
                continue;
            }
            Bounds.check(++count);
            String[] sides = pair.split("=", 2);
            found.computeIfAbsent(decode(sides[0]), name -> new ArrayList<>(1))
                    .add(TextFormat.value(sides.length == 1 ? "" : decode(sides[1])));
        }
        Map<String, Object> fields = new LinkedHashMap<>();
        found.forEach((name, values) -> fields.put(name, values.size() == 1 ? values.getFirst() : values));
        return fields;
    }

    private static String decode(String text) throws UnreadableContent {
        try {
            return URLDecoder.decode(text, StandardCharsets.UTF_8);
        } catch (IllegalArgumentException e) {
            throw new UnreadableContent("the body is not a form: a percent sign in it encodes nothing");
        }
    }
}
