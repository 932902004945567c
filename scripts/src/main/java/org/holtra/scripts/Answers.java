package org.holtra.scripts;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Plain;
import org.holtra.core.reading.codec.Decoded;
import org.holtra.core.reading.codec.Encoded;
import org.holtra.core.reading.content.JsonFormat;
import org.holtra.core.reading.content.UnreadableContent;
import tools.jackson.databind.json.JsonMapper;

/** What goes into a script and comes out of it, as TS013 says. */
final class Answers {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final JsonFormat FORMAT = new JsonFormat();

    private Answers() {}

    static String uplink(byte[] bytes, Integer port, Instant received) {
        StringBuilder json = new StringBuilder(bytes.length * 4 + 80).append("{\"bytes\":[");
        for (int i = 0; i < bytes.length; i++) {
            if (i > 0) {
                json.append(',');
            }
            json.append(bytes[i] & 0xff);
        }
        json.append(']');
        if (port != null) {
            json.append(",\"fPort\":").append((int) port);
        }
        if (received != null) {
            json.append(",\"recvTime\":\"").append(received).append('"');
        }
        return json.append('}').toString();
    }

    static String downlink(Map<?, ?> data) {
        return JSON.writeValueAsString(Map.of("data", Plain.of(data)));
    }

    static Decoded decoded(String answer) throws ScriptFailure {
        List<?> both = parse(answer);
        Map<?, ?> output = output(both);
        List<String> errors = texts(output.get("errors"), "errors");
        List<String> warnings = new ArrayList<>(texts(output.get("warnings"), "warnings"));
        warnings.addAll(texts(both.get(1), "notes"));
        Map<String, Object> data = new LinkedHashMap<>();
        if (output.get("data") instanceof Map<?, ?> fields) {
            fields.forEach((name, value) -> data.put(name.toString(), value));
        } else if (errors.isEmpty()) {
            throw new ScriptFailure("it returns neither `data`, as an object, nor `errors`");
        }
        return new Decoded(data, warnings, errors);
    }

    static Encoded encoded(String answer) throws ScriptFailure {
        Map<?, ?> output = output(parse(answer));
        List<String> errors = texts(output.get("errors"), "errors");
        if (!errors.isEmpty()) {
            return new Encoded(new byte[0], null, texts(output.get("warnings"), "warnings"), errors);
        }
        if (!(output.get("bytes") instanceof List<?> list)) {
            throw new ScriptFailure("it returns neither `bytes`, as a list, nor `errors`");
        }
        byte[] bytes = new byte[list.size()];
        for (int i = 0; i < bytes.length; i++) {
            if (!(list.get(i) instanceof Double number) || number != Math.rint(number) || number < 0 || number > 255) {
                throw new ScriptFailure("bytes[" + i + "] is " + Plain.brief(list.get(i))
                        + ", a whole number of 0 to 255 was expected");
            }
            bytes[i] = (byte) number.intValue();
        }
        Integer port = output.get("fPort") instanceof Double number ? number.intValue() : null;
        return new Encoded(bytes, port, texts(output.get("warnings"), "warnings"), errors);
    }

    private static List<?> parse(String answer) throws ScriptFailure {
        try {
            if (FORMAT.parse(answer.getBytes(java.nio.charset.StandardCharsets.UTF_8)) instanceof List<?> both
                    && both.size() == 2) {
                return both;
            }
            throw new ScriptFailure("its answer is not one; it changes what JSON.stringify goes by");
        } catch (UnreadableContent e) {
            throw new ScriptFailure("its answer cannot be read: " + e.getMessage());
        }
    }

    private static Map<?, ?> output(List<?> both) throws ScriptFailure {
        if (both.get(0) instanceof Map<?, ?> output) {
            return output;
        }
        throw new ScriptFailure("it returns " + Plain.brief(both.get(0)) + ", an object was expected");
    }

    private static List<String> texts(Object value, String name) throws ScriptFailure {
        return switch (value) {
            case null -> List.of();
            case List<?> list -> list.stream().map(Plain::text).toList();
            case String text -> List.of(text);
            default -> Plain.of(value) == null ? List.of() : refuse(name, value);
        };
    }

    private static List<String> refuse(String name, Object value) throws ScriptFailure {
        throw new ScriptFailure("`" + name + "` is " + Plain.brief(value) + ", a list of texts was expected");
    }
}
