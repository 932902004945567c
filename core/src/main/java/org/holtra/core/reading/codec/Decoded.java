package org.holtra.core.reading.codec;

import java.util.List;
import java.util.Map;

/**
 * What a codec made of bytes, as the result of TS013's {@code decodeUplink} is made up.
 *
 * @param data the fields; where there are errors, those read before the first one
 * @param warnings something a person should know; the fields are good
 * @param errors why it could not be read, with the byte or line; empty if it could
 */
public record Decoded(Map<String, Object> data, List<String> warnings, List<String> errors) {

    public static Decoded failed(String error) {
        return new Decoded(Map.of(), List.of(), List.of(error));
    }
}
