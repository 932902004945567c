package org.holtra.service.reading;

import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Scope;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Message;
import org.holtra.core.message.MessageType;
import org.holtra.core.message.Origin;
import org.holtra.core.message.Reading;
import org.holtra.core.picking.Points;
import org.holtra.core.reading.ArrivalParts;
import org.holtra.core.reading.Fields;
import org.holtra.core.reading.Known;
import org.holtra.core.reading.Meta;
import org.holtra.core.reading.Opened;
import org.holtra.core.reading.Reader;
import org.holtra.core.reading.codec.Codec;
import org.holtra.core.reading.codec.Decoded;
import org.holtra.core.reading.codec.Layout;
import org.holtra.core.reading.codec.Script;
import org.holtra.core.reading.content.CodecUnavailable;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Channel;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.Setup;
import org.holtra.scripts.Scripts;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceLife;
import org.holtra.service.devices.DeviceLives;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.setups.SetupAdopted;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.beans.factory.annotation.Qualifier;
import org.springframework.context.event.EventListener;
import org.springframework.core.annotation.Order;
import org.springframework.stereotype.Component;

/** Reads arrivals with what is known of their devices: for the first time, or again from the journal. */
@Component
public class Readings {

    private static final Duration LONG = Duration.ofSeconds(30);
    private static final Logger log = LoggerFactory.getLogger(Readings.class);

    private final DeviceRegistry devices;
    private final DeviceLives lives;
    private final Scripts scripts;
    private final boolean isPatient;
    private final Reader reader = new Reader(this::decode);
    private final Reader patient = new Reader(this::decodePatiently);
    private final Readings forTries;
    private final Readings forHistory;

    @Autowired
    Readings(
            DeviceRegistry devices,
            DeviceLives lives,
            Scripts scripts,
            @Qualifier("scriptsForTries") Scripts tries,
            @Qualifier("scriptsForHistory") Scripts history) {
        this.devices = devices;
        this.lives = lives;
        this.scripts = scripts;
        this.isPatient = false;
        this.forTries = new Readings(devices, lives, tries);
        this.forHistory = new Readings(devices, lives, history);
    }

    private Readings(DeviceRegistry devices, DeviceLives lives, Scripts scripts) {
        this.devices = devices;
        this.lives = lives;
        this.scripts = scripts;
        this.isPatient = true;
        this.forTries = this;
        this.forHistory = this;
    }

    /** For somebody who tries something: scripts run in a process that no message needs. */
    public Readings forTries() {
        return forTries;
    }

    /** For what reads many stored messages again: scripts run in a process that no message needs. */
    public Readings forHistory() {
        return forHistory;
    }

    /** Runs a codec; layouts here, scripts in a process of their own. */
    public Decoded decode(Codec codec, byte[] bytes, Integer port, java.time.Instant received) throws CodecUnavailable {
        return isPatient
                ? decodePatiently(codec, bytes, port, received)
                : switch (codec) {
                    case Layout layout -> layout.decode(bytes, port);
                    case Script script -> scripts.decodeUplink(script, bytes, port, received);
                };
    }

    private Decoded decodePatiently(Codec codec, byte[] bytes, Integer port, java.time.Instant received)
            throws CodecUnavailable {
        return switch (codec) {
            case Layout layout -> layout.decode(bytes, port);
            case Script script -> scripts.decodeUplink(script, bytes, port, received, LONG);
        };
    }

    /** @throws UnreadableContent also if reading failed in a way that was not foreseen: one message must not stop others */
    public Opened open(Arrival arrival, Inlet inlet) throws UnreadableContent {
        try {
            return reader.open(arrival, inlet);
        } catch (RuntimeException | StackOverflowError e) {
            throw new UnreadableContent(unforeseen(arrival, e));
        }
    }

    /** Whether its inlet only counts it; an arrival that is taken apart is asked about part by part. */
    public boolean ignores(Arrival arrival, Inlet inlet) {
        try {
            return !ArrivalParts.has(arrival, inlet) && Reader.ignores(arrival, inlet);
        } catch (RuntimeException | StackOverflowError e) {
            log.error("Whether message {} of inlet {} is ignored could not be told", arrival.id(), arrival.inlet(), e);
            return false;
        }
    }

    /**
     * The messages in an arrival.
     *
     * @param kept in the order of the list
     * @param ignored how many others were in it
     */
    public record Parts(List<Arrival> kept, int ignored) {}

    /**
     * The messages in an arrival that its inlet takes apart.
     *
     * @throws UnreadableContent if there is no list in it
     */
    public Parts parts(Arrival arrival, Inlet inlet) throws UnreadableContent {
        try {
            List<Arrival> all = ArrivalParts.of(arrival, inlet);
            List<Arrival> kept =
                    all.stream().filter(part -> !ignores(part, inlet)).toList();
            return new Parts(kept, all.size() - kept.size());
        } catch (RuntimeException | StackOverflowError e) {
            throw new UnreadableContent(unforeseen(arrival, e));
        }
    }

    /** @param device null if the message is of none */
    public Reading finish(Opened opened, Device device, Setup setup) {
        return finish(reader, opened, device, setup);
    }

    private static Reading finish(Reader reader, Opened opened, Device device, Setup setup) {
        try {
            return reader.finish(opened, device == null ? Known.NOTHING : device.forReading(model(device, setup)));
        } catch (RuntimeException | StackOverflowError e) {
            return new Reading.Unreadable(opened.arrival(), unforeseen(opened.arrival(), e), opened.origin());
        }
    }

    private static String unforeseen(Arrival arrival, Throwable failure) {
        log.error("Message {} of inlet {} could not be read", arrival.id(), arrival.inlet(), failure);
        return "Holtra failed to read it, which is a defect of Holtra's: " + failure;
    }

    /** The same where nobody waits for an answer: a codec that is busy or starting is waited for. */
    public Reading finishPatiently(Opened opened, Device device, Setup setup) {
        return finish(patient, opened, device, setup);
    }

    /**
     * A message as the journal has it, with its content read by a setup. Device, event time and type stay as they were
     * told when it was read.
     *
     * @throws UnreadableContent if this setup cannot read it; of that type {@link CodecUnavailable} if it may do so later
     */
    public Message again(StoredMessage stored, Setup setup) throws UnreadableContent {
        return message(stored, finish(open(stored, setup), device(stored), setup));
    }

    /**
     * The same, with these channels in place of those that the device has.
     *
     * @throws UnreadableContent if this setup cannot read it
     */
    public Message wired(StoredMessage stored, List<Channel> channels, Setup setup) throws UnreadableContent {
        Device device = device(stored);
        Model model = device == null ? null : setup.model(device.model()).orElse(null);
        Model wired = model == null ? Model.wired(null, channels) : model.with(channels);
        Known known = device == null ? new Known(wired, null, null) : device.forReading(wired);
        return message(stored, reader.finish(open(stored, setup), known));
    }

    private Opened open(StoredMessage stored, Setup setup) throws UnreadableContent {
        Inlet inlet = setup.inlet(stored.arrival().inlet()).orElse(null);
        if (inlet == null) {
            throw new UnreadableContent("its inlet `" + stored.arrival().inlet() + "` is no longer there");
        }
        return open(stored.arrival(), inlet);
    }

    private static Message message(StoredMessage stored, Reading reading) throws UnreadableContent {
        return switch (reading) {
            case Reading.Unreadable(Arrival arrival, String reason, Origin origin) ->
                throw new UnreadableContent(reason);
            case Reading.Deferred(Arrival arrival, String reason, Origin origin, boolean stopped) ->
                throw new CodecUnavailable(reason, stopped);
            case Reading.Read(Message message) ->
                new Message(
                        stored.arrival(),
                        new Origin(
                                stored.device(),
                                MessageType.of(stored.type()).orElse(MessageType.READING),
                                stored.simulated(),
                                stored.sequence()),
                        stored.eventTime(),
                        message.data(),
                        message.meta(),
                        stored.reason());
        };
    }

    /** The device of a message as it is known today; null if it is of none. */
    public Device device(StoredMessage stored) {
        return stored.device() == null ? null : devices.find(stored.device()).orElse(null);
    }

    /**
     * What expressions see of a message as the journal has it, its device as it is known today.
     *
     * @param point of its device that it is seen as; null for the whole
     * @throws UnreadableContent if this setup cannot read it
     */
    public Scope scope(StoredMessage stored, Setup setup, String point) throws UnreadableContent {
        return scope(again(stored, setup), device(stored), setup, point);
    }

    /** What expressions see of a message, its device as known here. */
    public Scope scope(Message message, Device device, Setup setup) {
        Model model = model(device, setup);
        return new Scope(
                message.data(),
                Meta.of(message),
                device == null ? Map.of() : lives.scope(device, model),
                model == null ? Map.of() : model.units());
    }

    /** What expressions see of a device alone; null for none. */
    public Scope scopeOf(Device device, Setup setup) {
        return new Scope(
                Map.of(), Map.of(), device == null ? Map.of() : lives.scope(device, model(device, setup)), Map.of());
    }

    /** What expressions see of a message as long as it is not read. */
    public Scope withoutData(Opened opened, Device device, Setup setup) {
        Model model = model(device, setup);
        return new Scope(Map.of(), Meta.of(opened.arrival()), lives.scope(device, model), Map.of());
    }

    /** A setup with scripts wants the processes for them: they are started before the first message needs one. */
    @EventListener
    @Order(0)
    void adopted(SetupAdopted event) {
        boolean hasScripts = event.after().models().values().stream().anyMatch(model -> model.codec() instanceof Script)
                || event.after().inlets().values().stream()
                        .map(inlet -> inlet.contents().payload())
                        .anyMatch(payload -> payload != null && payload.codec() instanceof Script);
        if (hasScripts) {
            scripts.start();
        }
    }

    /** The same, seen as what it tells of one point; of the message as a whole if that is null. */
    public Scope scope(Message message, Device device, Setup setup, String point) {
        Scope whole = scope(message, device, setup);
        return point == null ? whole : Points.scope(whole, model(device, setup), point);
    }

    /** What a message tells of its device. */
    public DeviceLife.Heard heard(Message message, Map<String, Object> fields, Device device, Setup setup) {
        boolean reading = message.type() == MessageType.READING;
        Map<String, Object> shows = new LinkedHashMap<>(reading ? Fields.position(fields) : Map.of());
        Optional.ofNullable(model(device, setup))
                .filter(model -> !model.shows().isEmpty())
                .ifPresent(model -> {
                    Scope scope = scope(message, device, setup);
                    model.shows().forEach((what, expression) -> {
                        if (expression.evaluate(scope) instanceof Outcome.Value(Object value)
                                && (value instanceof Number || value instanceof String)) {
                            shows.put(what, value);
                        }
                    });
                });
        Map<String, Object> gateway = new LinkedHashMap<>();
        message.meta().forEach((name, value) -> {
            if ((value instanceof Number || value instanceof String) && !name.equals(Meta.CLOCK)) {
                gateway.put(name, value);
            }
        });
        return new DeviceLife.Heard(
                message.id(),
                message.arrival().inlet(),
                message.origin().sequence(),
                message.eventTime(),
                reading ? fields : Map.of(),
                shows,
                gateway,
                true);
    }

    /** The model of a device, with channels of its own if it has any; null if it has neither, or there is no device. */
    public static Model model(Device device, Setup setup) {
        return device == null
                ? null
                : Model.wired(
                        setup.model(device.model()).orElse(null),
                        device.knowledge().channels());
    }
}
