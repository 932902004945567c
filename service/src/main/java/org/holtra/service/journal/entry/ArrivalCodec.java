package org.holtra.service.journal.entry;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.UUID;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.Transport;
import tools.jackson.databind.ObjectReader;
import tools.jackson.databind.ObjectWriter;
import tools.jackson.databind.json.JsonMapper;

/** What surrounds an arrival's body, as the journal's bytes: JSON, since it is looked at and never searched. */
public final class ArrivalCodec {

    @JsonInclude(JsonInclude.Include.NON_NULL)
    private record Around(Transport transport, String contentType, String idempotencyKey, UUID whole) {}

    private static final ObjectWriter WRITER = JsonMapper.shared().writerFor(Around.class);
    private static final ObjectReader READER = JsonMapper.shared().readerFor(Around.class);

    private ArrivalCodec() {}

    public static byte[] encode(Arrival arrival) {
        return WRITER.writeValueAsBytes(new Around(
                arrival.transport(),
                arrival.contentType(),
                arrival.idempotencyKey(),
                arrival.isPart() ? arrival.whole().value() : null));
    }

    public static Arrival decode(MessageId id, String inlet, byte[] around, byte[] body) {
        Around read = READER.readValue(around);
        return new Arrival(
                id,
                inlet,
                read.transport(),
                read.contentType(),
                body,
                read.idempotencyKey(),
                read.whole() == null ? null : new MessageId(read.whole()));
    }
}
