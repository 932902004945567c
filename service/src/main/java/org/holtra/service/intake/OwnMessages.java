package org.holtra.service.intake;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.MessageType;
import org.holtra.core.message.Origin;
import org.holtra.core.message.Transport;
import org.holtra.core.picking.Picker;
import org.holtra.core.reading.Opened;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Setup;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.reading.Readings;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** Messages that Holtra makes of what devices sent, sorted and kept like those that come in. */
@Component
public class OwnMessages {

    private static final JsonMapper JSON = JsonMapper.shared();

    /**
     * @param device that it is about, or null
     * @param cause the message that it was made of, or null
     */
    public record Own(
            MessageId id, MessageType type, Map<String, Object> data, String device, boolean simulated, UUID cause) {

        public static Own alarm(MessageId id, Map<String, Object> data, String device, boolean simulated, UUID cause) {
            return new Own(id, MessageType.ALARM, data, device, simulated, cause);
        }
    }

    private final Router router;
    private final Readings readings;
    private final Journal journal;

    OwnMessages(Router router, Readings readings, Journal journal) {
        this.router = router;
        this.readings = readings;
        this.journal = journal;
    }

    /**
     * Keeps them within the caller's transaction, with what lanes take of them. What is owed has ids that follow from those
     * of the messages.
     *
     * @return what is owed for them once that is committed
     */
    public List<Delivery.Owed> keep(List<Own> messages, Setup setup, Instant now) {
        List<Delivery.Owed> all = new ArrayList<>();
        for (Own one : messages) {
            all.addAll(keep(one, route(one, setup), now));
        }
        return all;
    }

    /** The same of one that is of no use where no lane takes it: then it is not kept. */
    public List<Delivery.Owed> keepIfTaken(Own one, Setup setup, Instant now) {
        Picked picked = route(one, setup);
        return picked.takes().isEmpty() ? List.of() : keep(one, picked, now);
    }

    private List<Delivery.Owed> keep(Own one, Picked picked, Instant now) {
        List<Delivery.Owed> owed = new ArrayList<>();
        for (Picker.Take take : picked.deliveries()) {
            String name = one.id() + " " + take.lane().name() + " " + take.point();
            owed.add(Owing.owed(
                    UUID.nameUUIDFromBytes(name.getBytes(StandardCharsets.UTF_8)), picked.stored(), take, now, 0));
        }
        journal.keepMade(picked.stored().made(one.cause()), picked.remembered(), owed);
        return owed;
    }

    private Picked route(Own one, Setup setup) {
        Arrival arrival = new Arrival(
                one.id(), Setup.OWN_INLET, Transport.NONE, "application/json", JSON.writeValueAsBytes(one.data()));
        try {
            Opened opened = readings.open(arrival, setup.inlet(Setup.OWN_INLET).orElseThrow());
            Origin origin = new Origin(one.device(), one.type(), one.simulated(), null);
            return router.tried(new Opened(arrival, opened.inlet(), origin, opened.scope()), null, setup);
        } catch (UnreadableContent e) {
            throw new IllegalStateException("Holtra cannot read its own message", e);
        }
    }
}
