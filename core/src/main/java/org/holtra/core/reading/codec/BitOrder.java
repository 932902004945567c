package org.holtra.core.reading.codec;

/**
 * In which order the bits of a payload follow one another, and with that its bytes. {@code BIG} takes the most
 * significant bit of each byte first, so a field of whole bytes is in network order; {@code LITTLE} takes the least
 * significant bit of each byte first, so a field of whole bytes has its low byte first.
 */
enum BitOrder {
    BIG {
        @Override
        long read(byte[] bytes, int at, int bits) {
            if (bits > MOST_AT_ONCE) {
                int low = bits - 32;
                return read(bytes, at, low) << 32 | read(bytes, at + low, 32);
            }
            int last = at + bits - 1;
            long value = 0;
            for (int i = at >>> 3; i <= last >>> 3; i++) {
                value = value << 8 | bytes[i] & 0xff;
            }
            return value >>> 7 - (last & 7) & mask(bits);
        }

        @Override
        int place(int bit, int bits, int at) {
            int position = at + bits - 1 - bit;
            return position >>> 3 << 3 | 7 - (position & 7);
        }
    },
    LITTLE {
        @Override
        long read(byte[] bytes, int at, int bits) {
            if (bits > MOST_AT_ONCE) {
                return read(bytes, at, 32) | read(bytes, at + 32, bits - 32) << 32;
            }
            int first = at >>> 3;
            long value = 0;
            for (int i = at + bits - 1 >>> 3; i >= first; i--) {
                value = value << 8 | bytes[i] & 0xff;
            }
            return value >>> (at & 7) & mask(bits);
        }

        @Override
        int place(int bit, int bits, int at) {
            return at + bit;
        }
    };

    /** With up to seven bits before it, so many bits always fit a long. */
    private static final int MOST_AT_ONCE = 56;

    /**
     * @param at the first bit, counted from the start of the payload
     * @param bits 1 to 64, all inside the payload
     */
    abstract long read(byte[] bytes, int at, int bits);

    /** Where bit {@code bit} of a value (0 the lowest) stands: eight times the byte's index, plus its rank in the byte. */
    abstract int place(int bit, int bits, int at);

    void write(byte[] bytes, int at, int bits, long value) {
        for (int bit = 0; bit < bits; bit++) {
            int place = place(bit, bits, at);
            if ((value >>> bit & 1) != 0) {
                bytes[place >>> 3] |= (byte) (1 << (place & 7));
            } else {
                bytes[place >>> 3] &= (byte) ~(1 << (place & 7));
            }
        }
    }

    private static long mask(int bits) {
        return -1L >>> 64 - bits;
    }
}
