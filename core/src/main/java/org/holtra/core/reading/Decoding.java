package org.holtra.core.reading;

import java.time.Instant;
import org.holtra.core.reading.codec.Codec;
import org.holtra.core.reading.codec.Decoded;
import org.holtra.core.reading.codec.Layout;
import org.holtra.core.reading.content.CodecUnavailable;

/** Runs codecs. Scripts run in a process of their own, so somebody else has to do it. */
@FunctionalInterface
public interface Decoding {

    /**
     * Never throws for what the bytes or the codec hold: that is in the result.
     *
     * @throws CodecUnavailable if the codec cannot be run now, or had to be stopped
     */
    Decoded decode(Codec codec, byte[] bytes, Integer port, Instant received) throws CodecUnavailable;

    /** Layouts only. */
    static Decoding ofLayouts() {
        return (codec, bytes, port, received) -> codec instanceof Layout layout
                ? layout.decode(bytes, port)
                : Decoded.failed("scripts cannot be run here");
    }
}
