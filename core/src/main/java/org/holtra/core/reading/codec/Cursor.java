package org.holtra.core.reading.codec;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** Where decoding stands: the next bit of the payload, and the fields read so far. */
final class Cursor {

    final byte[] bytes;
    final int end;
    final Integer port;
    int bit;
    Map<String, Object> fields = new LinkedHashMap<>();
    /** The fields of the whole payload, while {@link #fields} are those of one part of a repeat. */
    final Map<String, Object> root = fields;

    private List<String> warnings = List.of();

    Cursor(byte[] bytes, Integer port) {
        this.bytes = bytes;
        this.end = bytes.length * 8;
        this.port = port;
    }

    void need(int bits, String what) throws CodecFailure {
        if (end - bit < bits) {
            throw new CodecFailure("byte " + (bit >>> 3) + ": " + what + " needs " + amount(bits)
                    + ", but the payload ends after " + bytes.length + (bytes.length == 1 ? " byte" : " bytes"));
        }
    }

    void warn(String warning) {
        if (warnings.isEmpty()) {
            warnings = new ArrayList<>();
        }
        warnings.add(warning);
    }

    List<String> warnings() {
        return warnings;
    }

    static String amount(int bits) {
        if (bits % 8 == 0) {
            return bits == 8 ? "1 byte" : bits / 8 + " bytes";
        }
        return bits == 1 ? "1 bit" : bits + " bits";
    }
}
