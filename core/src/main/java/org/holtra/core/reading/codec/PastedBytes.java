package org.holtra.core.reading.codec;

import java.util.Base64;
import java.util.HexFormat;

/** Bytes as people paste them. */
public final class PastedBytes {

    private PastedBytes() {}

    /**
     * What can be hexadecimal is read as that, with or without spaces, colons, commas, dashes and {@code 0x}; all else as
     * base64.
     *
     * @throws IllegalArgumentException if it is neither
     */
    public static byte[] parse(String text) {
        String bare = text.replaceAll("[\\s:,-]|0x", "");
        return bare.matches("([0-9a-fA-F]{2})*")
                ? HexFormat.of().parseHex(bare)
                : Base64.getDecoder().decode(text.strip());
    }
}
