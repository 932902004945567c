package org.holtra.service.workbench;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.holtra.core.expression.Scope;
import org.holtra.core.message.Message;
import org.holtra.core.message.MessageId;
import org.holtra.core.picking.Points;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.Setup;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.history.Records;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/**
 * The last messages of inlets as expressions see them, with today's facts: what a person who writes a condition wants to
 * hold it against. Kept for a few seconds, since every letter typed asks for them again.
 */
@Component
class Sample {

    /** So many of the last messages of an inlet. */
    static final int MOST = 2_000;

    private static final Duration FRESH = Duration.ofSeconds(5);
    private static final Duration FORGOTTEN = Duration.ofMinutes(2);
    private static final Logger log = LoggerFactory.getLogger(Sample.class);

    /** @param model of the device, or null */
    record Seen(StoredMessage message, Scope scope, Model model) {

        /** What a lane sees of it: the message as a whole, or each point that it tells of. */
        List<Scope> views(boolean perPoint) {
            return perPoint
                    ? Points.told(scope, model).stream()
                            .map(point -> Points.scope(scope, model, point))
                            .toList()
                    : List.of(scope);
        }
    }

    /** @param read what was read of each message, so that a look a moment later reads only what came meanwhile */
    private record Kept(Instant at, int revision, List<Seen> seen, Map<MessageId, Message> read) {}

    private final Records records;
    private final Setups setups;
    private final DeviceRegistry devices;
    private final Readings readings;
    private final InstantSource clock;
    private final Map<String, Kept> kept = new ConcurrentHashMap<>();

    Sample(Records records, Setups setups, DeviceRegistry devices, Readings readings, InstantSource clock) {
        this.records = records;
        this.setups = setups;
        this.devices = devices;
        this.readings = readings.forHistory();
        this.clock = clock;
    }

    /** The last read messages of these inlets, the newest first. */
    List<Seen> of(Set<String> inlets) {
        List<Seen> all = new ArrayList<>();
        inlets.forEach(inlet -> all.addAll(of(inlet)));
        return all;
    }

    private List<Seen> of(String inlet) {
        Setup setup = setups.current();
        Instant now = clock.instant();
        Kept known = kept.get(inlet);
        if (known != null
                && known.revision == setup.revision()
                && known.at.plus(FRESH).isAfter(now)) {
            return known.seen;
        }
        Map<MessageId, Message> before = known != null && known.revision == setup.revision() ? known.read : Map.of();
        Map<MessageId, Message> read = new HashMap<>();
        List<Seen> seen = new ArrayList<>();
        for (StoredMessage stored : records.last(Set.of(inlet), MOST)) {
            Message message = before.get(stored.id());
            if (message == null) {
                message = read(stored, setup);
            }
            if (message != null) {
                read.put(stored.id(), message);
                Device device = stored.device() == null
                        ? null
                        : devices.find(stored.device()).orElse(null);
                seen.add(new Seen(stored, readings.scope(message, device, setup), Readings.model(device, setup)));
            }
        }
        kept.values().removeIf(old -> old.at.plus(FORGOTTEN).isBefore(now));
        kept.put(inlet, new Kept(now, setup.revision(), seen, read));
        return seen;
    }

    /** Null if today's setup cannot read it. */
    private Message read(StoredMessage stored, Setup setup) {
        try {
            return readings.again(stored, setup);
        } catch (UnreadableContent e) {
            log.debug("Message {} cannot be read today: {}", stored.id(), e.getMessage());
            return null;
        }
    }
}
