package org.holtra.service.journal;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.Map;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import tools.jackson.databind.ObjectReader;
import tools.jackson.databind.ObjectWriter;
import tools.jackson.databind.json.JsonMapper;

/** What surrounds an arrival's body, as the journal's bytes: JSON, since it is looked at and never searched. */
public final class ArrivalCodec {

    @JsonInclude(JsonInclude.Include.NON_NULL)
    private record Around(
            String remote, String path, String contentType, Map<String, String> headers, String idempotencyKey) {}

    private static final ObjectWriter WRITER = JsonMapper.shared().writerFor(Around.class);
    private static final ObjectReader READER = JsonMapper.shared().readerFor(Around.class);

    private ArrivalCodec() {}

    public static byte[] encode(Arrival arrival) {
        return WRITER.writeValueAsBytes(new Around(
                arrival.remote(), arrival.path(), arrival.contentType(), arrival.headers(), arrival.idempotencyKey()));
    }

    public static Arrival decode(MessageId id, String inlet, byte[] around, byte[] body) {
        Around read = READER.readValue(around);
        return new Arrival(
                id, inlet, read.remote(), read.path(), read.headers(), read.contentType(), body, read.idempotencyKey());
    }
}
