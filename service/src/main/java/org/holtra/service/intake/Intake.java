package org.holtra.service.intake;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import org.holtra.core.expression.Scope;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Message;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.MessageIds;
import org.holtra.core.message.Reading;
import org.holtra.core.picking.Picker;
import org.holtra.core.reading.Meta;
import org.holtra.core.reading.Reader;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.journal.Delivery;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.JournalUnavailable;
import org.holtra.service.journal.StoredMessage;
import org.holtra.service.journal.Tally;
import org.holtra.service.setups.Setups;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;

/** Takes an arrival of whatever kind: reads it, asks the lanes, and has it kept before anybody is told so. */
@Component
public class Intake {

    private final Setups setups;
    private final DeviceRegistry devices;
    private final Journal journal;
    private final Dispatcher dispatcher;
    private final Tally tally;
    private final MessageIds ids;
    private final Reader reader = new Reader();

    Intake(Setups setups, DeviceRegistry devices, Journal journal, Dispatcher dispatcher, Tally tally, MessageIds ids) {
        this.setups = setups;
        this.devices = devices;
        this.journal = journal;
        this.dispatcher = dispatcher;
        this.tally = tally;
        this.ids = ids;
    }

    public MessageId nextId() {
        return ids.next();
    }

    /**
     * Completed once the message is durable; its deliveries are on their way then.
     *
     * @throws JournalUnavailable if nothing can be kept now, directly or through the future
     */
    public CompletableFuture<MessageId> take(Arrival arrival, Inlet inlet) {
        Setup setup = setups.current();
        return switch (reader.read(arrival, inlet)) {
            case Reading.Unreadable(Arrival raw, String reason, boolean simulated) ->
                keep(
                        new StoredMessage(
                                raw,
                                StoredMessage.UNREADABLE,
                                reason,
                                null,
                                null,
                                null,
                                null,
                                simulated,
                                setup.revision(),
                                List.of()),
                        null,
                        List.of());
            case Reading.Read(Message message) -> takeRead(message, setup);
        };
    }

    /** The sender has been told that the message is kept. */
    public void acknowledged(MessageId id, String inlet) {
        tally.add(Tally.What.ACKNOWLEDGED, inlet, id.received());
    }

    private CompletableFuture<MessageId> takeRead(Message message, Setup setup) {
        Device device = device(message);
        Map<String, Object> known = device == null ? Map.of() : device.scope();
        List<Lane> lanes =
                Picker.lanes(setup, message.arrival().inlet(), new Scope(message.data(), Meta.of(message), known));
        StoredMessage stored = new StoredMessage(
                message.arrival(),
                StoredMessage.READ,
                message.note(),
                message.device(),
                device == null ? null : device.revision(),
                message.eventTime(),
                message.sort().word(),
                message.simulated(),
                setup.revision(),
                lanes.stream().map(Lane::name).toList());
        return keep(stored, message.data(), lanes);
    }

    private Device device(Message message) {
        if (message.device() == null) {
            return null;
        }
        try {
            return devices.known(message.device(), message.simulated());
        } catch (DataAccessException e) {
            throw new JournalUnavailable("the registry cannot be reached", e);
        }
    }

    private CompletableFuture<MessageId> keep(StoredMessage message, Object data, List<Lane> lanes) {
        List<Delivery.Owed> owed = new ArrayList<>(lanes.size());
        Set<UUID> mine = new HashSet<>();
        long bytes = message.arrival().body().length;
        for (Lane lane : lanes) {
            Delivery.Owed one = new Delivery.Owed(
                    ids.next().value(),
                    message.id(),
                    lane.name(),
                    lane.outlet(),
                    message.device(),
                    0,
                    message.id().received(),
                    null,
                    null,
                    null);
            owed.add(one);
            if (dispatcher.reserve(lane.outlet(), lane.name(), bytes)) {
                mine.add(one.id());
            }
        }
        CompletableFuture<Void> durable;
        try {
            durable = journal.append(new Journal.Entry(message, owed, mine));
        } catch (JournalUnavailable e) {
            forget(owed, mine, bytes);
            throw e;
        }
        return durable.handle((nothing, failure) -> {
            if (failure != null) {
                forget(owed, mine, bytes);
                throw new JournalUnavailable("the journal cannot be written", failure);
            }
            dispatch(message, data, owed, mine);
            return message.id();
        });
    }

    private void dispatch(StoredMessage message, Object data, List<Delivery.Owed> owed, Set<UUID> mine) {
        if (message.device() != null) {
            devices.heard(message.device(), message.id());
        }
        for (Delivery.Owed one : owed) {
            if (mine.contains(one.id())) {
                dispatcher.offer(new Delivery(one, message), data);
            } else {
                dispatcher.wake(one.outlet());
            }
        }
    }

    private void forget(List<Delivery.Owed> owed, Set<UUID> mine, long bytes) {
        owed.stream()
                .filter(one -> mine.contains(one.id()))
                .forEach(one -> dispatcher.unreserve(one.outlet(), one.lane(), bytes));
    }
}
