package org.holtra.service.memory;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Stream;
import org.holtra.core.memory.Memory;
import org.holtra.core.memory.OperationForms;
import org.holtra.core.message.MessageId;
import org.holtra.core.reading.content.CodecUnavailable;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Lookout;
import org.holtra.core.setup.Setup;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.Remembered;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.SetupAdopted;
import org.holtra.service.setups.Setups;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.event.EventListener;
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
    private static final int KEYS = 500;

    /** Messages that came by an instant are committed by so much later; nothing is closed before that. */
    private static final Duration GRACE = Duration.ofMillis(500);

    private static final Logger log = LoggerFactory.getLogger(Memories.class);

    private final MemoryMapper mapper;
    private final States states;
    private final Setups setups;
    private final Store store;
    private final Dispatcher dispatcher;
    private final Watchkeeping.Book book;
    private final Aside aside = new Aside();
    private volatile int releasedFor = -1;

    /** Where messages are. */
    @Component
    record Store(Journal journal, Readings readings, TransactionTemplate transaction, InstantSource clock) {}

    /** Lanes and lookouts whose allowed lateness has changed since the last step. */
    private final Set<String> lookAgain = ConcurrentHashMap.newKeySet();

    Memories(
            MemoryMapper mapper,
            States states,
            Setups setups,
            Store store,
            Dispatcher dispatcher,
            Watchkeeping.Book book) {
        this.mapper = mapper;
        this.book = book;
        this.states = states;
        this.setups = setups;
        this.store = store;
        this.dispatcher = dispatcher;
    }

    /** What waits for late messages waits for them as the setup has it now, also where nothing more comes. */
    @EventListener
    void adopted(SetupAdopted event) {
        Stream.of(names(event.after()))
                .filter(name -> !lateness(event.before(), name).equals(lateness(event.after(), name)))
                .forEach(lookAgain::add);
    }

    /** By the thread that steps, between two steps: a step under way goes by the setup it began with. */
    private void lookAgain() {
        Set<String> names = Set.copyOf(lookAgain);
        if (!names.isEmpty()) {
            store.transaction.executeWithoutResult(
                    status -> mapper.lookAgain(names.toArray(String[]::new), store.clock.instant()));
            lookAgain.removeAll(names);
        }
    }

    private static Optional<Duration> lateness(Setup setup, String name) {
        return Remembered.isLookout(name)
                ? Optional.ofNullable(setup.lookouts().get(Remembered.lookout(name)))
                        .map(Lookout::lateness)
                : Optional.ofNullable(setup.lanes().get(name)).map(Lane::memory).map(Memory::lateness);
    }

    /** Called every so often, by one thread: does all that can be done now. */
    public void run() {
        // Without a setup nobody knows what is to become of what is remembered.
        if (store.journal.isAway() || setups.current().revision() == 0) {
            return;
        }
        try {
            lookAgain();
            boolean more = true;
            while (more) {
                more = does(this::step) == KEYS;
            }
            release();
        } catch (DataAccessException | TransactionException e) {
            log.info("What lanes remember waits: {}", e.getMessage());
        }
    }

    /** A part of the work. Says how many keys it was about. */
    private interface Part {
        int of(List<Delivery.Owed> leaving);
    }

    /**
     * Does a part in a transaction. What comes of it stands in the table, so the dispatcher is told before it is written and
     * once it is: what comes for the same devices must not overtake it.
     */
    private int does(Part part) {
        List<Delivery.Owed> leaving = new ArrayList<>();
        try {
            return store.transaction.execute(status -> part.of(leaving));
        } finally {
            leaving.forEach(dispatcher::leftInTable);
        }
    }

    /** What is done in one transaction. */
    private final class Doing {

        private final Notes notes = new Notes(mapper, states);
        private final MemoryStep lanes;
        private final Watchkeeping lookouts;

        Doing(Setup setup) {
            lanes = new MemoryStep(setup, mapper, states, notes, store);
            lookouts = new Watchkeeping(setup, states, notes, store, book);
        }

        void end(Instant now, List<Delivery.Owed> leaving) {
            Stream.concat(lanes.owed().stream(), lookouts.owed().stream()).forEach(one -> {
                dispatcher.leaves(one);
                leaving.add(one);
            });
            lanes.write();
            notes.write(now);
        }
    }

    private int step(List<Delivery.Owed> leaving) {
        Setup setup = setups.current();
        String[] names = names(setup);
        if (names.length == 0) {
            return 0;
        }
        Instant now = store.clock.instant().minus(GRACE);
        List<MemoryMapper.Row> rows = mapper.claim(names, aside.lanes(now), aside.keys(now), now, KEYS);
        if (rows.isEmpty()) {
            return 0;
        }
        Map<String, List<MemoryMapper.Came>> came = new HashMap<>();
        List<MessageId> ids = new ArrayList<>();
        mapper.unseen(
                        rows.stream().map(MemoryMapper.Row::lane).toArray(String[]::new),
                        rows.stream().map(MemoryMapper.Row::key).toArray(String[]::new))
                .forEach(one -> {
                    ids.add(new MessageId(one.message()));
                    came.computeIfAbsent(id(one.lane(), one.key()), key -> new ArrayList<>())
                            .add(one);
                });
        rows.stream().filter(row -> doesOther(row, setup, came)).forEach(row -> {
            List<MemoryMapper.Came> all = mapper.all(row.lane(), row.key());
            all.forEach(one -> ids.add(new MessageId(one.message())));
            came.put(id(row.lane(), row.key()), all);
        });
        Map<UUID, StoredMessage> messages = new HashMap<>();
        store.journal
                .find(ids.stream().distinct().toList())
                .forEach(one -> messages.put(one.id().value(), one));
        Doing doing = new Doing(setup);
        for (MemoryMapper.Row row : rows) {
            List<MemoryMapper.Came> its = came.getOrDefault(id(row.lane(), row.key()), List.of());
            try {
                if (Remembered.isLookout(row.lane())) {
                    doing.lookouts.take(row, its, messages, now);
                } else {
                    doing.lanes.take(row, its, messages, now);
                }
                doing.notes.came(its);
            } catch (CodecUnavailable e) {
                log.debug("Key {} of {} waits: {}", row.key(), row.lane(), e.getMessage());
                aside.set(row.lane(), row.key(), now);
            }
        }
        doing.end(now, leaving);
        return rows.size();
    }

    /** Whether what is done with a key has changed since; then what is in its memory comes to it anew. */
    private static boolean doesOther(MemoryMapper.Row row, Setup setup, Map<String, List<MemoryMapper.Came>> came) {
        if (row.operation().isEmpty()) {
            return false;
        }
        if (Remembered.isLookout(row.lane())) {
            String name = Remembered.lookout(row.lane());
            return !row.operation()
                    .equals(States.words(setup.lookouts().get(name).watch()));
        }
        Memory memory = setup.lanes().get(row.lane()).memory();
        if (memory.operation() == null) {
            return OperationForms.read(row.operation()).isPresent();
        }
        List<MemoryMapper.Came> its = came.getOrDefault(id(row.lane(), row.key()), List.of());
        String zone = its.isEmpty() ? row.zone() : its.getLast().zone();
        return !row.operation()
                .equals(States.words(memory.timeline(ZoneId.of(zone)).operation()));
    }

    /** The names under which lanes and lookouts remember. */
    private static String[] names(Setup setup) {
        return Stream.concat(
                        setup.lanes().values().stream()
                                .filter(lane -> lane.memory() != null)
                                .map(Lane::name),
                        setup.lookouts().keySet().stream().map(name -> Remembered.LOOKOUT + name))
                .toArray(String[]::new);
    }

    private static String id(String lane, String key) {
        return lane + "\u0000" + key;
    }

    /** Called every so often: tells of alarms that were raised while they were shelved, and are shelved no longer. */
    public void tellUntold() {
        if (store.journal.isAway()) {
            return;
        }
        try {
            does(leaving -> {
                Doing doing = new Doing(setups.current());
                doing.lookouts.tellUntold();
                doing.end(store.clock.instant(), leaving);
                return 0;
            });
        } catch (DataAccessException | TransactionException e) {
            log.info("What was shelved could not be told of yet: {}", e.getMessage());
        }
    }

    /** What is in the memory of lanes that have none any more goes its way as it is. Done once for each setup. */
    private void release() {
        Setup setup = setups.current();
        if (releasedFor == setup.revision()) {
            return;
        }
        for (String name : mapper.othersThan(names(setup))) {
            boolean more = true;
            while (more) {
                more = does(leaving -> release(setup, name, leaving)) == KEYS;
            }
        }
        releasedFor = setup.revision();
    }

    private int release(Setup setup, String name, List<Delivery.Owed> leaving) {
        Lane lane = setup.lanes().get(name);
        Doing doing = new Doing(setup);
        if (!Remembered.isLookout(name)) {
            List<MemoryMapper.Row> making = mapper.making(name, KEYS);
            if (!making.isEmpty()) {
                making.forEach(row -> doing.lanes.end(lane, row));
                doing.end(store.clock.instant(), leaving);
                mapper.forgetKeys(
                        name, making.stream().map(MemoryMapper.Row::key).toArray(String[]::new));
                return KEYS;
            }
        }
        List<MemoryMapper.Left> left = mapper.left(name, KEYS);
        for (MemoryMapper.Left one : left) {
            MessageId message = new MessageId(one.message());
            if (Remembered.isLookout(name)) {
                log.debug("Lookout {} is gone and lets {} go", name, message);
            } else if (lane == null) {
                doing.lanes.settle(message, name, "dropped", "its lane was removed while it was in its memory", null);
            } else {
                store.journal.find(message).ifPresent(stored -> doing.lanes.pass(lane, stored, false));
            }
            doing.notes.let(name, one.message());
        }
        if (Remembered.isLookout(name)) {
            doing.lookouts.abandon(Remembered.lookout(name));
        }
        doing.end(store.clock.instant(), leaving);
        mapper.forgetLane(name);
        return left.size();
    }
}
