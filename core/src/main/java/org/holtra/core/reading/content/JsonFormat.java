package org.holtra.core.reading.content;

import tools.jackson.core.JacksonException;
import tools.jackson.core.JsonParser;
import tools.jackson.core.ObjectReadContext;
import tools.jackson.core.StreamReadFeature;
import tools.jackson.core.exc.StreamReadException;
import tools.jackson.core.json.JsonFactory;

/** JSON (RFC 8259). A name that stands twice in an object is an error, for nobody can tell which one was meant. */
public final class JsonFormat implements Format.Parser {

    private final JsonFactory factory = JsonFactory.builder()
            .streamReadConstraints(Bounds.OF_TOKENS)
            .enable(StreamReadFeature.STRICT_DUPLICATE_DETECTION)
            .enable(StreamReadFeature.USE_FAST_DOUBLE_PARSER)
            .build();

    /** @throws UnreadableContent if the bytes are not one JSON value, with the line and column */
    @Override
    public Object parse(byte[] bytes) throws UnreadableContent {
        if (bytes.length == 0) {
            throw new UnreadableContent("the body is empty, JSON was expected");
        }
        try (JsonParser parser = factory.createParser(ObjectReadContext.empty(), bytes)) {
            parser.nextToken();
            Object value = Tokens.value(parser);
            if (parser.nextToken() != null) {
                throw new UnreadableContent("more follows after the end of the JSON value" + Tokens.place(parser));
            }
            return value;
        } catch (StreamReadException e) {
            throw new UnreadableContent("the body is not JSON: " + e.getOriginalMessage() + place(e));
        } catch (JacksonException e) {
            throw new UnreadableContent("the body is not JSON: " + e.getOriginalMessage());
        }
    }

    private static String place(StreamReadException e) {
        var at = e.getLocation();
        return at == null ? "" : " (line " + at.getLineNr() + ", column " + at.getColumnNr() + ")";
    }
}
