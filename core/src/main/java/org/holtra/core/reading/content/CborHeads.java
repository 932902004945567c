package org.holtra.core.reading.content;

/**
 * Looks at the heads of a CBOR body (RFC 8949, section 3) one after another, before it is parsed: tags upon tags cost the
 * parser a time that grows with the square of their number. What is no CBOR is left to the parser to say.
 */
final class CborHeads {

    /** In a row; any known use has two at most. */
    private static final int TAGS = 8;

    private static final int BYTES = 2;
    private static final int TEXT = 3;
    private static final int TAG = 6;
    private static final int INDEFINITE = 31;

    private CborHeads() {}

    static void check(byte[] body) throws UnreadableContent {
        int values = 0;
        int tags = 0;
        int at = 0;
        while (at < body.length) {
            int major = (body[at] & 0xff) >> 5;
            int info = body[at] & 0x1f;
            int size = info < 24 || info == INDEFINITE ? 0 : 1 << Math.min(info - 24, 3);
            long argument = info < 24 ? info : argument(body, at + 1, size);
            tags = major == TAG ? tags + 1 : 0;
            if (tags > TAGS) {
                throw new UnreadableContent(
                        "the body has more than " + TAGS + " CBOR tags on one value (byte " + at + ")");
            }
            Bounds.check(++values / 2);
            at += 1 + size;
            if ((major == BYTES || major == TEXT) && info != INDEFINITE) {
                if (argument < 0 || argument > body.length - at) {
                    return;
                }
                at += (int) argument;
            }
        }
    }

    private static long argument(byte[] body, int from, int size) {
        long argument = 0;
        for (int i = from; i < Math.min(from + size, body.length); i++) {
            argument = argument << 8 | body[i] & 0xff;
        }
        return argument;
    }
}
