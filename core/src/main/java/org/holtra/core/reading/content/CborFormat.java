package org.holtra.core.reading.content;

import tools.jackson.core.JacksonException;
import tools.jackson.core.JsonParser;
import tools.jackson.core.ObjectReadContext;
import tools.jackson.core.StreamReadFeature;
import tools.jackson.dataformat.cbor.CBORFactory;

/** CBOR (RFC 8949). Byte strings become bytes; names that are numbers become text. */
final class CborFormat implements Format.Parser {

    private final CBORFactory factory = CBORFactory.builder()
            .streamReadConstraints(Bounds.OF_TOKENS)
            .enable(StreamReadFeature.STRICT_DUPLICATE_DETECTION)
            .build();

    @Override
    public Object parse(byte[] body) throws UnreadableContent {
        if (body.length == 0) {
            throw new UnreadableContent("the body is empty, CBOR was expected");
        }
        CborHeads.check(body);
        try (JsonParser parser = factory.createParser(ObjectReadContext.empty(), body)) {
            parser.nextToken();
            Object value = Tokens.value(parser);
            if (parser.nextToken() != null) {
                throw new UnreadableContent("more follows after the end of the CBOR value" + Tokens.place(parser));
            }
            return value;
        } catch (JacksonException e) {
            var at = e.getLocation();
            throw new UnreadableContent("the body is not CBOR: " + e.getOriginalMessage()
                    + (at == null ? "" : " (byte " + at.getByteOffset() + ")"));
        }
    }
}
