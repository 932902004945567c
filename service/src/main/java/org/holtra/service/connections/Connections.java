package org.holtra.service.connections;

import java.time.InstantSource;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;

/** The connections of this node, by what they are the connections of. */
@Component
public class Connections {

    private final Diary diary;
    private final InstantSource clock;
    private final Map<Thing, Connection> all = new ConcurrentHashMap<>();

    Connections(Diary diary, InstantSource clock) {
        this.diary = diary;
        this.clock = clock;
    }

    /** The one there is, or a new one. */
    public Connection of(Thing thing) {
        return all.computeIfAbsent(thing, its -> new Connection(its, diary, clock));
    }

    /** As it stands; empty if this node never had one. */
    public Optional<Connection.Status> status(Thing thing) {
        return Optional.ofNullable(all.get(thing)).map(Connection::status);
    }

    /** All of this node, as they stand. */
    public Map<Thing, Connection.Status> all() {
        return all.entrySet().stream()
                .collect(Collectors.toMap(
                        Map.Entry::getKey, one -> one.getValue().status()));
    }

    /** Forgets those that are no longer in the setup. */
    public void retain(Thing.Sort sort, Set<String> names) {
        all.keySet().removeIf(thing -> thing.sort() == sort && !names.contains(thing.name()));
    }
}
