package org.holtra.service.memory;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Stream;
import org.holtra.core.message.MessageId;
import org.holtra.core.reading.content.CodecUnavailable;
import org.holtra.core.setup.Setup;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.RememberedMessages;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.StoredMessage;
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
 * Brings what came to the timelines of its keys, and keeps what comes of it, with the state of the keys, in one transaction.
 * So whatever is interrupted is done again as a whole, and any node does it.
 */
@Component
public class TimelineRunner {

    /** Keys in one transaction. */
    private static final int KEYS = 500;

    /** Messages that came by an instant are committed by so much later; nothing is closed before that. */
    private static final Duration GRACE = Duration.ofMillis(500);

    private static final Logger log = LoggerFactory.getLogger(TimelineRunner.class);

    private final MemoryMapper mapper;
    private final States states;
    private final List<TimelineOwner> owners;
    private final Setups setups;
    private final Store store;
    private final Dispatcher dispatcher;
    private final Aside aside = new Aside();
    private volatile int releasedFor = -1;

    /** Where messages are. */
    @Component
    record Store(
            Journal journal, RememberedMessages remembered, TransactionTemplate transaction, InstantSource clock) {}

    /** Lanes and lookouts whose allowed lateness has changed since the last step. */
    private final Set<String> lookAgain = ConcurrentHashMap.newKeySet();

    TimelineRunner(
            MemoryMapper mapper,
            States states,
            Setups setups,
            Store store,
            Dispatcher dispatcher,
            List<TimelineOwner> owners) {
        this.mapper = mapper;
        this.owners = owners;
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

    private Optional<Duration> lateness(Setup setup, String name) {
        return owner(name).lateness(setup, name);
    }

    private TimelineOwner owner(String name) {
        return owners.stream().filter(one -> one.owns(name)).findFirst().orElseThrow();
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

        private final Notes notes = new Notes(mapper, store.remembered, states);
        private final Map<TimelineOwner, TimelineStep> steps = new LinkedHashMap<>();

        Doing(Setup setup) {
            owners.forEach(owner -> steps.put(owner, owner.begin(setup, notes)));
        }

        TimelineStep of(String name) {
            return steps.get(owner(name));
        }

        void end(Instant now, List<Delivery.Owed> leaving) {
            steps.values().stream().flatMap(step -> step.owed().stream()).forEach(one -> {
                dispatcher.leaves(one);
                leaving.add(one);
            });
            steps.values().forEach(TimelineStep::write);
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
        List<RememberedKey> rows = mapper.claim(names, aside.lanes(now), aside.keys(now), now, KEYS);
        if (rows.isEmpty()) {
            return 0;
        }
        Map<String, List<Came>> came = new HashMap<>();
        List<MessageId> ids = new ArrayList<>();
        mapper.unseen(
                        rows.stream().map(RememberedKey::lane).toArray(String[]::new),
                        rows.stream().map(RememberedKey::key).toArray(String[]::new))
                .forEach(one -> {
                    ids.add(new MessageId(one.message()));
                    came.computeIfAbsent(id(one.lane(), one.key()), key -> new ArrayList<>())
                            .add(one);
                });
        rows.stream().filter(row -> isChanged(row, setup, came)).forEach(row -> {
            List<Came> all = mapper.all(row.lane(), row.key());
            all.forEach(one -> ids.add(new MessageId(one.message())));
            came.put(id(row.lane(), row.key()), all);
        });
        Map<UUID, StoredMessage> messages = new HashMap<>();
        store.journal
                .find(ids.stream().distinct().toList())
                .forEach(one -> messages.put(one.id().value(), one));
        Doing doing = new Doing(setup);
        for (RememberedKey row : rows) {
            List<Came> its = came.getOrDefault(id(row.lane(), row.key()), List.of());
            try {
                doing.of(row.lane()).take(row, its, messages, now);
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
    private boolean isChanged(RememberedKey row, Setup setup, Map<String, List<Came>> came) {
        return !row.isNew()
                && owner(row.lane()).isChanged(setup, row, came.getOrDefault(id(row.lane(), row.key()), List.of()));
    }

    private String[] names(Setup setup) {
        return owners.stream().flatMap(owner -> owner.names(setup)).toArray(String[]::new);
    }

    private static String id(String lane, String key) {
        return lane + "\u0000" + key;
    }

    /** Called every so often: tells what could not be told when it happened. */
    public void catchUp() {
        if (store.journal.isAway()) {
            return;
        }
        try {
            does(leaving -> {
                Doing doing = new Doing(setups.current());
                doing.steps.values().forEach(TimelineStep::catchUp);
                doing.end(store.clock.instant(), leaving);
                return 0;
            });
        } catch (DataAccessException | TransactionException e) {
            log.info("Telling what could not be told before waits: {}", e.getMessage());
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
        Doing doing = new Doing(setup);
        TimelineStep step = doing.of(name);
        List<RememberedKey> making = mapper.making(name, KEYS);
        if (!making.isEmpty()) {
            making.forEach(step::end);
            doing.end(store.clock.instant(), leaving);
            mapper.forgetKeys(name, making.stream().map(RememberedKey::key).toArray(String[]::new));
            return KEYS;
        }
        List<UUID> left = mapper.left(name, KEYS);
        for (UUID message : left) {
            step.release(name, new MessageId(message));
            doing.notes.letGo(name, message);
        }
        step.released(name);
        doing.end(store.clock.instant(), leaving);
        mapper.forgetLane(name);
        return left.size();
    }
}
