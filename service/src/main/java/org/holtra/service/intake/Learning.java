package org.holtra.service.intake;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.holtra.core.message.Message;
import org.holtra.core.message.MessageId;
import org.holtra.core.reading.Fields;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Setup;
import org.holtra.core.text.DurationText;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceLife;
import org.holtra.service.devices.DeviceLives;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.devices.FieldsSeen;
import org.holtra.service.history.MessagePage;
import org.holtra.service.history.Records;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** Learns from messages that are kept what devices tell of themselves, and which fields there are. */
@Component
public class Learning {

    private static final int PAGE = 500;
    private static final Logger log = LoggerFactory.getLogger(Learning.class);

    private final DeviceRegistry devices;
    private final DeviceLives lives;
    private final FieldsSeen fields;
    private final Past past;

    /** What messages that were kept before are read again with. */
    @Component
    record Past(Records records, Readings readings, Setups setups, InstantSource clock) {}

    Learning(DeviceRegistry devices, DeviceLives lives, FieldsSeen fields, Past past) {
        this.devices = devices;
        this.lives = lives;
        this.fields = fields;
        this.past = past;
    }

    /** What was heard in the last moments before a kill stands in the journal only. */
    void load() {
        fields.load();
        Setup setup = past.setups.current();
        MessageId last = MessageId.before(lives.load());
        int caught = 0;
        while (last != null) {
            MessagePage page = past.records.after(last, past.clock.instant().plusSeconds(60), PAGE);
            for (StoredMessage stored : page.messages()) {
                if (stored.readable() && stored.cameAsFirst() && stored.device() != null) {
                    caught += again(stored, setup);
                }
            }
            last = page.last();
        }
        if (caught > 0) {
            log.info("Took up what {} messages told that were kept last", caught);
        }
    }

    /** How many were taken up: one, or none if it is accounted for already or cannot be read any more. */
    private int again(StoredMessage stored, Setup setup) {
        Device device = devices.find(stored.device()).orElse(null);
        UUID last = lives.of(stored.device()).lastMessage();
        if (device == null || last != null && last.compareTo(stored.id().value()) >= 0) {
            return 0;
        }
        try {
            Message message = past.readings.again(stored, setup);
            lives.heard(device.key(), past.readings.heard(message, Fields.flat(message.data()), device, setup));
            return 1;
        } catch (UnreadableContent e) {
            log.info("Message {} was read and now is not: {}", stored.id(), e.getMessage());
            return 0;
        }
    }

    /**
     * What a message teaches. Worked out by whoever took it in, so that little is left for the one thread that commits.
     *
     * @param device its key, or null
     * @param heard null if it is of no device
     */
    record Lesson(
            String inlet,
            String model,
            Map<String, Object> fields,
            Instant at,
            String device,
            DeviceLife.Heard heard) {}

    Lesson lesson(Message message) {
        Map<String, Object> flat = Fields.flat(message.data());
        Optional<Device> device = Optional.ofNullable(message.device()).flatMap(devices::find);
        return new Lesson(
                message.arrival().inlet(),
                device.map(Device::model).orElse(null),
                flat,
                message.arrival().received(),
                message.device(),
                device.map(one -> past.readings.heard(message, flat, one, past.setups.current()))
                        .orElse(null));
    }

    /** That a message came, which could not be read yet. */
    Lesson lessonOfArrival(StoredMessage stored) {
        Instant at = stored.id().received();
        DeviceLife.Heard heard = new DeviceLife.Heard(
                stored.id(), stored.arrival().inlet(), stored.sequence(), at, Map.of(), Map.of(), Map.of(), true);
        return new Lesson(
                stored.arrival().inlet(), null, Map.of(), at, stored.device(), stored.device() == null ? null : heard);
    }

    /** The same as {@link #lesson}, of a message that was heard of when it came. */
    Lesson lessonOfHeard(Message message) {
        Lesson lesson = lesson(message);
        return new Lesson(
                lesson.inlet,
                lesson.model,
                lesson.fields,
                lesson.at,
                lesson.device,
                lesson.heard == null ? null : lesson.heard.again());
    }

    /** Once the message is durable. */
    void learn(Lesson lesson) {
        fields.saw(lesson.inlet, lesson.model, lesson.fields, lesson.at);
        if (lesson.heard != null) {
            lives.heard(lesson.device, lesson.heard);
        }
    }

    /** Looks which devices have fallen silent. */
    public void lookForSilence() {
        Setup setup = past.setups.current();
        lives.lookForSilence((key, life) -> silentAfter(key, life, setup));
    }

    /** By the device, its model, or its own rhythm, in this order. */
    public Optional<Duration> silentAfter(String key, DeviceLife life, Setup setup) {
        Optional<Device> device = devices.find(key);
        return device.map(one -> one.knowledge().silentAfter())
                .map(DurationText::parse)
                .or(() -> device.flatMap(one -> setup.model(one.model())).map(model -> model.silentAfter()))
                .or(life::ownSilence);
    }
}
