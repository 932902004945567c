package org.holtra.core.reading.codec;

import java.util.List;
import java.util.Map;

/** A declarative description of binary payloads, compiled. It knows both directions and keeps nothing between calls. */
public final class Layout implements Codec {

    private final Step.Steps steps;
    private final Integer port;

    /** @param port what encoded payloads are sent on; null to leave it open */
    Layout(Step.Steps steps, Integer port) {
        this.steps = steps;
        this.port = port;
    }

    /** @param port the payload came on, or null */
    public Decoded decode(byte[] payload, Integer port) {
        Cursor cursor = new Cursor(payload, port);
        try {
            steps.decode(cursor);
        } catch (CodecFailure e) {
            return new Decoded(cursor.root, cursor.warnings(), List.of(e.getMessage()));
        }
        int left = (cursor.end - cursor.bit) / 8;
        if (left > 0) {
            cursor.warn("byte " + (cursor.bit + 7 >>> 3) + ": " + Cursor.amount(left * 8)
                    + " more than the layout speaks of");
        }
        return new Decoded(cursor.root, cursor.warnings(), List.of());
    }

    /** @param port it will be sent on, or null to take the layout's own */
    public Encoded encode(Map<?, ?> data, Integer port) {
        Integer on = port == null ? this.port : port;
        Pen pen = new Pen(data, on);
        try {
            steps.encode(pen);
        } catch (CodecFailure e) {
            return Encoded.failed(e.getMessage());
        }
        return new Encoded(pen.bytes(), on, List.of(), List.of());
    }
}
