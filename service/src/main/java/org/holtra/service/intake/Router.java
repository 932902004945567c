package org.holtra.service.intake;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.memory.Memory;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Message;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.MessageType;
import org.holtra.core.message.Origin;
import org.holtra.core.message.Reading;
import org.holtra.core.picking.Picker;
import org.holtra.core.picking.Points;
import org.holtra.core.reading.Opened;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Lookout;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.Setup;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.journal.entry.Remembered;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.springframework.stereotype.Component;

/** Says what an opened arrival is: read and taken by these lanes, unreadable, unclaimed, or a duplicate. */
@Component
public class Router {

    private final DeviceRegistry devices;
    private final Readings readings;

    Router(DeviceRegistry devices, Readings readings) {
        this.devices = devices;
        this.readings = readings;
    }

    Picked unreadable(Arrival arrival, String reason, Origin origin, Setup setup) {
        return new Picked(
                stored(arrival, StoredMessage.UNREADABLE, reason, origin, setup, null), null, List.of(), List.of());
    }

    /** An arrival that is taken apart. */
    Picked whole(Arrival arrival, Readings.Parts parts, Setup setup) {
        return new Picked(
                StoredMessage.whole(arrival, parts.kept().size(), parts.ignored(), setup.revision()),
                null,
                List.of(),
                List.of());
    }

    /** The model of a device, or null. */
    String modelOf(String device) {
        return device == null ? null : devices.find(device).map(Device::model).orElse(null);
    }

    /** @param duplicateKey what it has in common with its duplicates, or null */
    Picked duplicate(Opened opened, String duplicateKey, MessageId first, Setup setup) {
        return new Picked(
                new StoredMessage(
                        opened.arrival(),
                        StoredMessage.DUPLICATE,
                        null,
                        opened.origin().device(),
                        null,
                        null,
                        opened.origin().type().word(),
                        opened.origin().simulated(),
                        setup.revision(),
                        List.of(),
                        opened.origin().sequence(),
                        duplicateKey,
                        first.value()),
                null,
                List.of(),
                List.of());
    }

    /**
     * A device nobody knows is entered where its inlet admits unknown devices.
     *
     * @param duplicateKey what it has in common with its duplicates, or null
     */
    Picked route(Opened opened, String duplicateKey, Setup setup) {
        return route(opened, duplicateKey, setup, true, readings::finish);
    }

    /**
     * The same later than it came, when nobody waits for an answer.
     *
     * @param remember whether a device nobody knows is entered
     */
    Picked again(Opened opened, String duplicateKey, Setup setup, boolean remember) {
        return route(opened, duplicateKey, setup, remember, readings::finishPatiently);
    }

    /** The same, but for the registry, which stays as it is. */
    Picked tried(Opened opened, String duplicateKey, Setup setup) {
        return route(opened, duplicateKey, setup, false, readings::finish);
    }

    private interface Finishing {
        Reading finish(Opened opened, Device device, Setup setup);
    }

    private Picked route(Opened opened, String duplicateKey, Setup setup, boolean remember, Finishing finishing) {
        String key = opened.origin().device();
        Device device = key == null ? null : devices.find(key).orElse(null);
        if (key != null && device == null) {
            Inlet.UnknownDevices unknown = opened.inlet().unknown();
            if (!unknown.admit()) {
                return new Picked(
                        stored(
                                opened.arrival(),
                                StoredMessage.UNCLAIMED,
                                "its device `" + key + "` is unknown, and inlet `"
                                        + opened.inlet().name() + "` admits no unknown devices",
                                opened.origin(),
                                setup,
                                duplicateKey),
                        null,
                        List.of(),
                        List.of());
            }
            Device appearing = appearing(opened, key, unknown);
            device = remember
                    ? devices.enter(
                            key,
                            appearing.simulated(),
                            appearing.model(),
                            appearing.knowledge().facts())
                    : appearing;
        } else if (remember && device != null && opened.origin().simulated() && !device.simulated()) {
            device = devices.markSimulated(key);
        }
        return switch (finishing.finish(opened, device, setup)) {
            case Reading.Unreadable(Arrival arrival, String reason, Origin origin) ->
                new Picked(
                        stored(arrival, StoredMessage.UNREADABLE, reason, origin, setup, duplicateKey),
                        null,
                        List.of(),
                        List.of());
            case Reading.Deferred(Arrival arrival, String reason, Origin origin, boolean stopped) ->
                deferred(opened, device, duplicateKey, reason, stopped, setup);
            case Reading.Read(Message message) -> picked(message, device, duplicateKey, setup);
        };
    }

    /** A message that waits behind another of its device that waits to be read. */
    Picked behind(Opened opened, String duplicateKey, Setup setup) {
        String key = opened.origin().device();
        Device device = key == null ? null : devices.find(key).orElse(null);
        return deferred(
                opened, device, duplicateKey, "an earlier message of its device waits to be read", false, setup);
    }

    /** Nobody knows what it says, but that it came counts: its device is not silent. */
    private Picked deferred(
            Opened opened, Device device, String duplicateKey, String reason, boolean stopped, Setup setup) {
        StoredMessage stored =
                stored(opened.arrival(), StoredMessage.DEFERRED, reason, opened.origin(), setup, duplicateKey);
        List<Remembered> heard = new ArrayList<>(0);
        if (device != null && !device.barred()) {
            Scope scope = readings.withoutData(opened, device, setup);
            setup.lookoutsOf(opened.inlet().name()).stream()
                    .filter(lookout -> lookout.watchesForSilence()
                            && !lookout.perPoint()
                            && lookout.selection().devices().serves(scope))
                    .forEach(lookout -> heard.add(Remembered.byLookout(lookout.name(), lookout.keyOf(scope, null))));
        }
        return new Picked(stored, null, List.of(), heard, stopped);
    }

    /** A device nobody knows, as it would be entered. */
    public static Device appearing(Opened opened, String key, Inlet.UnknownDevices unknown) {
        Map<String, Object> facts = new LinkedHashMap<>();
        unknown.facts().forEach((name, expression) -> {
            if (expression.evaluate(opened.scope()) instanceof Outcome.Value(Object value)) {
                facts.put(name, Plain.of(value));
            }
        });
        String model = unknown.model() != null
                        && unknown.model().evaluate(opened.scope()) instanceof Outcome.Value(Object value)
                ? Plain.text(value)
                : null;
        return new Device(
                key,
                new Device.Knowledge(model, facts, Map.of(), null, null, null, List.of()),
                false,
                1,
                opened.origin().simulated());
    }

    /** That a device was barred, or is silent meanwhile, is said by Holtra and not by the device. */
    private static boolean isNewsOfDevice(Message message) {
        return message.type() == MessageType.STATUS && message.arrival().inlet().equals(Setup.OWN_INLET);
    }

    private Picked picked(Message message, Device device, String duplicateKey, Setup setup) {
        boolean barred = device != null && device.barred() && !isNewsOfDevice(message);
        Scope scope = barred ? null : readings.scope(message, device, setup);
        List<Picker.Take> takes = barred
                ? List.of()
                : Picker.takes(setup, message.arrival().inlet(), scope, Readings.model(device, setup));
        StoredMessage stored = new StoredMessage(
                message.arrival(),
                StoredMessage.READ,
                barred ? "its device is barred, so no lane takes it" : message.note(),
                message.device(),
                device == null ? null : device.revision(),
                message.eventTime(),
                message.type().word(),
                message.simulated(),
                setup.revision(),
                takes.stream().map(take -> take.lane().name()).toList(),
                message.origin().sequence(),
                duplicateKey,
                null);
        return new Picked(
                stored, message, takes, barred ? List.of() : remembered(takes, scope, device, message, setup));
    }

    private static List<Remembered> remembered(
            List<Picker.Take> takes, Scope scope, Device device, Message message, Setup setup) {
        List<Remembered> all = new ArrayList<>(0);
        for (Lookout lookout : setup.lookoutsOf(message.arrival().inlet())) {
            watched(lookout, scope, Readings.model(device, setup), all);
        }
        for (Picker.Take take : takes) {
            Memory memory = take.lane().memory();
            if (memory != null) {
                all.add(new Remembered(
                        take.lane().name(),
                        memory.keyOf(scope),
                        memory.zoneOf(scope).getId()));
            }
        }
        return all;
    }

    private static void watched(Lookout lookout, Scope scope, Model model, List<Remembered> all) {
        if (!lookout.perPoint()) {
            if (lookout.watches(scope)) {
                all.add(Remembered.byLookout(lookout.name(), lookout.keyOf(scope, null)));
            }
            return;
        }
        for (String point : Points.told(scope, model)) {
            Scope seen = Points.scope(scope, model, point);
            if (lookout.watches(seen)) {
                all.add(Remembered.byLookout(lookout.name(), lookout.keyOf(seen, point)));
            }
        }
    }

    private static StoredMessage stored(
            Arrival arrival, String state, String reason, Origin origin, Setup setup, String duplicateKey) {
        return new StoredMessage(
                arrival,
                state,
                reason,
                origin.device(),
                null,
                null,
                origin.type() == null ? null : origin.type().word(),
                origin.simulated(),
                setup.revision(),
                List.of(),
                origin.sequence(),
                duplicateKey,
                null);
    }
}
