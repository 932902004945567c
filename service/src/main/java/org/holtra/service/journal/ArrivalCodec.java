package org.holtra.service.journal;

import java.util.Map;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import tools.jackson.databind.json.JsonMapper;

/** What surrounds an arrival's body, as the journal's bytes: JSON, since it is looked at and never searched. */
final class ArrivalCodec {

    private record Around(String remote, String path, String contentType, Map<String, String> headers) {}

    private static final JsonMapper JSON = JsonMapper.shared();

    private ArrivalCodec() {}

    static byte[] encode(Arrival arrival) {
        return JSON.writeValueAsBytes(
                new Around(arrival.remote(), arrival.path(), arrival.contentType(), arrival.headers()));
    }

    static Arrival decode(MessageId id, String inlet, byte[] around, byte[] body) {
        Around read = JSON.readValue(around, Around.class);
        return new Arrival(id, inlet, read.remote(), read.path(), read.headers(), read.contentType(), body);
    }
}
