package org.holtra.core.reading.codec;

import java.util.Arrays;
import java.util.Map;

/** Where encoding stands: the bits written so far, and the fields to write. */
final class Pen {

    /** The largest payload that is made; the long-range radio networks carry 242 bytes, buses and brokers more. */
    private static final int LARGEST = 65_536;

    final Map<?, ?> root;
    final Integer port;
    Map<?, ?> fields;
    int bit;

    private byte[] bytes = new byte[64];
    private int length;

    Pen(Map<?, ?> fields, Integer port) {
        this.root = fields;
        this.fields = fields;
        this.port = port;
    }

    void write(BitOrder order, int bits, long value) throws CodecFailure {
        int until = bit + bits + 7 >>> 3;
        if (until > LARGEST) {
            throw new CodecFailure("the payload would be longer than " + LARGEST + " bytes");
        }
        if (until > bytes.length) {
            bytes = Arrays.copyOf(bytes, Math.max(until, bytes.length * 2));
        }
        order.write(bytes, bit, bits, value);
        bit += bits;
        length = Math.max(length, until);
    }

    byte[] bytes() {
        return Arrays.copyOf(bytes, length);
    }
}
