package org.holtra.service.spool;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.UUID;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import org.holtra.service.journal.entry.ArrivalCodec;

/** An arrival as the spool's bytes: its id, its inlet, what surrounds the body, and the body. */
final class SpooledArrival {

    private SpooledArrival() {}

    static byte[] encode(Arrival arrival) {
        byte[] inlet = arrival.inlet().getBytes(StandardCharsets.UTF_8);
        byte[] around = ArrivalCodec.encode(arrival);
        return ByteBuffer.allocate(16 + 4 + inlet.length + 4 + around.length + arrival.body().length)
                .putLong(arrival.id().value().getMostSignificantBits())
                .putLong(arrival.id().value().getLeastSignificantBits())
                .putInt(inlet.length)
                .put(inlet)
                .putInt(around.length)
                .put(around)
                .put(arrival.body())
                .array();
    }

    static Arrival decode(byte[] bytes) {
        ByteBuffer buffer = ByteBuffer.wrap(bytes);
        MessageId id = new MessageId(new UUID(buffer.getLong(), buffer.getLong()));
        String inlet = new String(take(buffer, buffer.getInt()), StandardCharsets.UTF_8);
        byte[] around = take(buffer, buffer.getInt());
        return ArrivalCodec.decode(id, inlet, around, take(buffer, buffer.remaining()));
    }

    private static byte[] take(ByteBuffer buffer, int length) {
        byte[] taken = new byte[length];
        buffer.get(taken);
        return taken;
    }
}
