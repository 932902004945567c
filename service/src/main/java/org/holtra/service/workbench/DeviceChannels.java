package org.holtra.service.workbench;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.message.Message;
import org.holtra.core.reading.ChannelFields;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Channel;
import org.holtra.core.setup.Setup;
import org.holtra.service.devices.Device;
import org.holtra.service.history.MessageQuery;
import org.holtra.service.history.Records;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/** Shows what a device really sends, and what channels would make of it. */
@Component
public class DeviceChannels {

    private static final Duration LOOKED_BACK = Duration.ofDays(30);
    private static final int MOST_PLACES = 200;

    private final Records history;
    private final Readings readings;
    private final Setups setups;
    private final InstantSource clock;

    DeviceChannels(Records history, Readings readings, Setups setups, InstantSource clock) {
        this.history = history;
        this.readings = readings.forTries();
        this.setups = setups;
        this.clock = clock;
    }

    /**
     * What a device sends.
     *
     * @param message the last reading of it; null if it sent none within thirty days
     * @param at when that was measured
     * @param places of what was sent, with the values
     * @param channels that make fields of it now
     * @param ownChannels whether these are the device's own; else they are its model's
     * @param trouble why the message cannot be shown; null if it can
     */
    public record Sent(
            String message,
            Instant at,
            Map<String, Object> places,
            List<Channel> channels,
            boolean ownChannels,
            String trouble) {}

    /**
     * What a channel makes of the last message.
     *
     * @param name of the field in the data
     * @param sent null if the message has nothing at its place
     * @param value null if nothing is made of it
     * @param note why that is so, or why the value is not to be believed; null if all is well
     */
    public record Made(String name, Object sent, Object value, String unit, String note) {}

    public Sent sent(Device device) {
        Setup setup = setups.current();
        boolean own = !device.knowledge().channels().isEmpty();
        List<Channel> channels = own
                ? device.knowledge().channels()
                : setup.model(device.model()).map(model -> model.channels()).orElse(List.of());
        Optional<StoredMessage> last = last(device);
        if (last.isEmpty()) {
            return new Sent(null, null, Map.of(), channels, own, null);
        }
        String id = last.get().id().toString();
        try {
            Message message = readings.wired(last.get(), List.of(), setup);
            return new Sent(
                    id, message.eventTime(), ChannelFields.places(message.data(), MOST_PLACES), channels, own, null);
        } catch (UnreadableContent e) {
            return new Sent(id, null, Map.of(), channels, own, e.getMessage());
        }
    }

    private Optional<StoredMessage> last(Device device) {
        Instant now = clock.instant();
        return history
                .messages(MessageQuery.ofReadings(device.key(), now.minus(LOOKED_BACK), now.plusSeconds(60), null, 1))
                .messages()
                .stream()
                .findFirst();
    }

    /** @throws UnreadableContent if the device sent nothing lately, or the last of it cannot be read */
    public List<Made> made(Device device, List<Channel> channels) throws UnreadableContent {
        StoredMessage last =
                last(device).orElseThrow(() -> new UnreadableContent("the device sent no reading within thirty days"));
        Setup setup = setups.current();
        Object sent = readings.wired(last, List.of(), setup).data();
        List<Made> all = new ArrayList<>();
        for (Channel channel : channels) {
            ChannelFields.Made made = ChannelFields.of(sent, List.of(channel));
            Object value = made.notes().isEmpty()
                    ? ChannelFields.find(made.data(), channel.name()).orElse(null)
                    : null;
            Object at = ChannelFields.find(sent, channel.from()).orElse(null);
            all.add(new Made(channel.name(), at, value, channel.unit(), note(channel, at, value, made.notes())));
        }
        return all;
    }

    private static String note(Channel channel, Object sent, Object value, List<String> notes) {
        if (!notes.isEmpty()) {
            return String.join("; ", notes);
        }
        if (sent == null) {
            return "the last message has nothing at " + channel.from();
        }
        if (value instanceof Number number) {
            double is = number.doubleValue();
            if (channel.min() != null && is < channel.min() || channel.max() != null && is > channel.max()) {
                return "outside of its range; is the factor right?";
            }
        }
        return null;
    }
}
