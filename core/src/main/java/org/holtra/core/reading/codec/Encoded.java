package org.holtra.core.reading.codec;

import java.util.List;

/**
 * What a codec made of fields, as the result of TS013's {@code encodeDownlink} is made up.
 *
 * @param bytes empty if there are errors
 * @param port the port to send on, or null if the codec leaves it open
 */
public record Encoded(byte[] bytes, Integer port, List<String> warnings, List<String> errors) {

    public static Encoded failed(String error) {
        return new Encoded(new byte[0], null, List.of(), List.of(error));
    }
}
