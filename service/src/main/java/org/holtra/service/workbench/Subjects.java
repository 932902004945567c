package org.holtra.service.workbench;

import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Message;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.Origin;
import org.holtra.core.message.Reading;
import org.holtra.core.message.Transport;
import org.holtra.core.reading.ArrivalParts;
import org.holtra.core.reading.Opened;
import org.holtra.core.reading.content.CodecUnavailable;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.intake.Intake;
import org.holtra.service.intake.Router;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/** The message that a lane is tried on: a stored one, or one that a person pasted; with facts as they are or supposed. */
@Component
class Subjects {

    /**
     * @param message the id of a stored one; or null
     * @param pasted what would come; or null
     * @param facts supposed of its device; null as a value takes a fact away; null for facts as they are
     */
    record Wanted(String message, Pasted pasted, Map<String, Object> facts) {}

    /** @param contentType null for none */
    record Pasted(String inlet, String body, String contentType) {}

    /**
     * @param stored as it is, or would be, in the journal
     * @param device null if the message is of none
     */
    record Subject(StoredMessage stored, Message message, Device device, boolean pasted) {}

    private final Setups setups;
    private final Journal journal;
    private final DeviceRegistry devices;
    private final Readings readings;
    private final Intake intake;

    Subjects(Setups setups, Journal journal, DeviceRegistry devices, Readings readings, Intake intake) {
        this.setups = setups;
        this.journal = journal;
        this.devices = devices;
        this.readings = readings.forTries();
        this.intake = intake;
    }

    /**
     * @throws UnreadableContent if it cannot be read
     * @throws IllegalArgumentException if there is no such message or inlet
     */
    Subject of(Wanted wanted) throws UnreadableContent {
        Subject found = wanted.pasted != null ? pasted(wanted.pasted) : stored(wanted.message);
        return wanted.facts == null || wanted.facts.isEmpty() || found.device == null
                ? found
                : new Subject(found.stored, found.message, supposed(found.device, wanted.facts), found.pasted);
    }

    private Subject stored(String id) throws UnreadableContent {
        if (id == null) {
            throw new IllegalArgumentException("Say which message: its id, or what is pasted.");
        }
        StoredMessage stored = journal.find(MessageId.parse(id))
                .orElseThrow(() -> new IllegalArgumentException("There is no message `" + id + "`."));
        Setup setup = setups.current();
        Device device =
                stored.device() == null ? null : devices.find(stored.device()).orElse(null);
        return new Subject(stored, readings.again(stored, setup), device, false);
    }

    /** Where an arrival holds several messages, the lane is tried on the first. */
    private Arrival first(Arrival arrival, Inlet inlet) throws UnreadableContent {
        if (!ArrivalParts.has(arrival, inlet)) {
            return arrival;
        }
        Readings.Parts parts = readings.parts(arrival, inlet);
        if (parts.kept().isEmpty()) {
            throw new UnreadableContent(
                    parts.ignored() > 0 ? "the inlet ignores each of its parts" : "its list of parts is empty");
        }
        return parts.kept().getFirst();
    }

    private Subject pasted(Pasted pasted) throws UnreadableContent {
        Setup setup = setups.current();
        Inlet inlet = setup.inlet(pasted.inlet).orElse(null);
        if (inlet == null) {
            throw new IllegalArgumentException("There is no inlet `" + pasted.inlet + "`.");
        }
        Arrival arrival = new Arrival(
                intake.nextId(),
                inlet.name(),
                Transport.NONE,
                pasted.contentType,
                (pasted.body == null ? "" : pasted.body).getBytes(StandardCharsets.UTF_8));
        if (readings.ignores(arrival, inlet)) {
            throw new UnreadableContent("the inlet ignores it");
        }
        Opened opened = readings.open(first(arrival, inlet), inlet);
        String key = opened.origin().device();
        Device device =
                key == null ? null : devices.find(key).orElseGet(() -> Router.appearing(opened, key, inlet.unknown()));
        return switch (readings.finish(opened, device, setup)) {
            case Reading.Unreadable(Arrival came, String reason, Origin origin) -> throw new UnreadableContent(reason);
            case Reading.Deferred(Arrival came, String reason, Origin origin, boolean stopped) ->
                throw new CodecUnavailable(reason, stopped);
            case Reading.Read(Message message) ->
                new Subject(
                        new StoredMessage(
                                opened.arrival(),
                                StoredMessage.TRIAL,
                                message.note(),
                                message.device(),
                                device == null ? null : device.revision(),
                                message.eventTime(),
                                message.type().word(),
                                message.simulated(),
                                setup.revision(),
                                List.of(),
                                message.origin().sequence(),
                                null,
                                null),
                        message,
                        device,
                        true);
        };
    }

    private static Device supposed(Device device, Map<String, Object> facts) {
        Map<String, Object> all = new LinkedHashMap<>(device.knowledge().facts());
        facts.forEach((name, value) -> {
            if (value == null) {
                all.remove(name);
            } else {
                all.put(name, value);
            }
        });
        Device.Knowledge known = device.knowledge();
        return new Device(
                device.key(),
                new Device.Knowledge(
                        known.model(),
                        all,
                        known.points(),
                        known.zone(),
                        known.installed(),
                        known.silentAfter(),
                        known.channels()),
                device.barred(),
                device.revision(),
                device.simulated());
    }
}
