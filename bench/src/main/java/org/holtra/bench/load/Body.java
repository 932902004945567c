package org.holtra.bench.load;

import java.nio.charset.StandardCharsets;

/** The messages of the load: 300 bytes of JSON, each with a number of its own. */
final class Body {

    static final int BYTES = 300;
    private static final String MARK = "\"n\":";
    private static final String REST = ",\"airTemperature\":3.25,\"wetBulb\":0.75,\"humidity\":81.5,\"leafWetness\":12,"
            + "\"battery\":3.61,\"signal\":{\"rssi\":-97,\"snr\":6.5,\"gateway\":\"gw-hilltop-02\"},\"note\":\"";

    private Body() {}

    static byte[] of(int number, int devices) {
        String head = "{\"id\":\"station-%05d\",\"n\":%09d".formatted(number % devices, number + 100_000_000) + REST;
        return (head + "x".repeat(BYTES - head.length() - 2) + "\"}").getBytes(StandardCharsets.US_ASCII);
    }

    /** The number in a body, or -1. */
    static int number(byte[] body) {
        for (int at = 0; at + MARK.length() + 9 <= body.length; at++) {
            if (body[at] == '"' && body[at + 1] == 'n' && body[at + 2] == '"' && body[at + 3] == ':') {
                int number = 0;
                for (int digit = at + 4; digit < body.length && body[digit] >= '0' && body[digit] <= '9'; digit++) {
                    number = number * 10 + body[digit] - '0';
                }
                return number - 100_000_000;
            }
        }
        return -1;
    }
}
