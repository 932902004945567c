package org.holtra.service.memory;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Scope;
import org.holtra.core.message.MessageId;
import org.holtra.core.reading.UnreadableContent;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.StoredMessage;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Does what lanes with memory do: brings what came to the timelines of its keys, and keeps what comes of it, with the state
 * of the keys, in one transaction. So whatever is interrupted is done again as a whole, and any node does it.
 */
@Component
public class Memories {

    /** Keys in one transaction. */
    private static final int KEYS = 200;

    /** Messages that came by an instant are committed by so much later; nothing is closed before that. */
    private static final Duration GRACE = Duration.ofMillis(500);

    private static final Logger log = LoggerFactory.getLogger(Memories.class);

    private final MemoryMapper mapper;
    private final States states;
    private final Setups setups;
    private final Store store;
    private final Dispatcher dispatcher;

    /** Where messages are. */
    @Component
    record Store(
            Journal journal,
            Readings readings,
            DeviceRegistry devices,
            TransactionTemplate transaction,
            InstantSource clock) {

        /**
         * What expressions see of a message.
         *
         * @throws UnreadableContent if this setup cannot read it
         */
        Scope scope(StoredMessage stored, Setup setup) throws UnreadableContent {
            Device device = stored.device() == null
                    ? null
                    : devices.find(stored.device()).orElse(null);
            return readings.scope(readings.again(stored, setup), device, setup);
        }
    }

    Memories(MemoryMapper mapper, States states, Setups setups, Store store, Dispatcher dispatcher) {
        this.mapper = mapper;
        this.states = states;
        this.setups = setups;
        this.store = store;
        this.dispatcher = dispatcher;
    }

    /** Called every so often, by one thread: does all that can be done now. */
    public void run() {
        if (store.journal.isAway()) {
            return;
        }
        try {
            boolean more = true;
            while (more) {
                Harvest work = store.transaction.execute(status -> step());
                work.outlets().forEach(dispatcher::wake);
                more = work.keys() == KEYS;
            }
            release();
        } catch (DataAccessException | TransactionException e) {
            log.info("What lanes remember waits: {}", e.getMessage());
        }
    }

    /** Forgets keys of which nothing comes any more. */
    public void forget() {
        Instant now = store.clock.instant();
        setups.current().lanes().values().stream()
                .filter(lane -> lane.memory() != null && lane.memory().operation() != null)
                .forEach(lane -> mapper.forget(
                        lane.name(), now.minus(lane.memory().operation().kept())));
    }

    private Harvest step() {
        Setup setup = setups.current();
        String[] lanes = lanes(setup);
        if (lanes.length == 0) {
            return work(setup);
        }
        Instant now = store.clock.instant().minus(GRACE);
        List<MemoryMapper.Row> rows = mapper.claim(lanes, now, KEYS);
        Harvest work = work(setup);
        if (rows.isEmpty()) {
            return work;
        }
        Map<String, List<MemoryMapper.Came>> came = new HashMap<>();
        mapper.see(
                        rows.stream().map(MemoryMapper.Row::lane).toArray(String[]::new),
                        rows.stream().map(MemoryMapper.Row::key).toArray(String[]::new))
                .forEach(one -> came.computeIfAbsent(id(one.lane(), one.key()), key -> new ArrayList<>())
                        .add(one));
        for (MemoryMapper.Row row : rows) {
            work.take(row, came.getOrDefault(id(row.lane(), row.key()), List.of()), now);
        }
        work.write(now);
        return work;
    }

    private Harvest work(Setup setup) {
        return new Harvest(setup, mapper, states, store);
    }

    private static String[] lanes(Setup setup) {
        return setup.lanes().values().stream()
                .filter(lane -> lane.memory() != null)
                .map(Lane::name)
                .toArray(String[]::new);
    }

    private static String id(String lane, String key) {
        return lane + "\u0000" + key;
    }

    /** What is in the memory of lanes that have none any more goes its way as it is. */
    private void release() {
        Setup setup = setups.current();
        for (String name : mapper.othersThan(lanes(setup))) {
            Harvest work = store.transaction.execute(status -> release(setup, name));
            work.outlets().forEach(dispatcher::wake);
        }
    }

    private Harvest release(Setup setup, String name) {
        Lane lane = setup.lanes().get(name);
        Harvest work = work(setup);
        for (MemoryMapper.Left one : mapper.left(name, KEYS)) {
            MessageId message = new MessageId(one.message());
            if (lane == null) {
                work.settle(message, name, "dropped", "its lane was removed while it was in its memory", null);
            } else {
                store.journal.find(message).ifPresent(stored -> work.pass(lane, stored, false));
            }
            work.let(name, one.message());
        }
        work.write(store.clock.instant());
        mapper.forgetLane(name);
        return work;
    }
}
