package org.holtra.core.reading.content;

import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.regex.Pattern;

/** Plain text, as {@code text}; where it is a number, that as {@code value} too. */
final class TextFormat implements Format.Parser {

    private static final int LONGEST_NUMBER = 40;
    private static final String BYTE_ORDER_MARK = "\uFEFF";
    private static final Pattern NUMBER = Pattern.compile("[+-]?(\\d+(\\.\\d*)?|\\.\\d+)([eE][+-]?\\d{1,3})?");

    @Override
    public Object parse(byte[] body) throws UnreadableContent {
        String text = utf8(body).strip();
        Map<String, Object> fields = new LinkedHashMap<>();
        fields.put("text", text);
        if (value(text) instanceof Double number) {
            fields.put("value", number);
        }
        return fields;
    }

    /** A number where the text is one, else the text. Leading zeros make it text, for they are part of an identifier. */
    static Object value(String text) {
        if (text.length() <= LONGEST_NUMBER
                && NUMBER.matcher(text).matches()
                && !(text.length() > 1 && text.charAt(0) == '0' && Character.isDigit(text.charAt(1)))) {
            double number = Double.parseDouble(text);
            return Double.isFinite(number) ? (Object) number : text;
        }
        return text;
    }

    /** Without the byte order mark that some senders put before it. */
    static String utf8(byte[] body) throws UnreadableContent {
        try {
            String text = StandardCharsets.UTF_8
                    .newDecoder()
                    .decode(ByteBuffer.wrap(body))
                    .toString();
            return text.startsWith(BYTE_ORDER_MARK) ? text.substring(1) : text;
        } catch (CharacterCodingException e) {
            throw new UnreadableContent("the body is not text in UTF-8: " + e.getMessage());
        }
    }
}
