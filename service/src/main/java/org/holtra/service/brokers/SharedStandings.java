package org.holtra.service.brokers;

import java.util.Comparator;
import java.util.EnumMap;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.holtra.service.connections.Connection.State;
import org.holtra.service.connections.Connections;
import org.holtra.service.connections.Thing;

/**
 * How a shared connection stands on this node: as the worst of those that use it. Each of them holds a connection of its own to
 * the broker, so that none waits for another; what is wrong with the broker is told once.
 */
public final class SharedStandings {

    private static final List<State> WORST_FIRST =
            List.of(State.REFUSED, State.WAITING, State.CONNECTING, State.CONNECTED);

    private record Standing(State state, String reason, String detail) {}

    private final Connections connections;
    private final Map<String, Map<Thing, Standing>> all = new HashMap<>();

    public SharedStandings(Connections connections) {
        this.connections = connections;
    }

    public synchronized void stands(String connection, Thing user, State state, String reason, String detail) {
        all.computeIfAbsent(connection, name -> new LinkedHashMap<>()).put(user, new Standing(state, reason, detail));
        tell(connection);
    }

    public synchronized void left(String connection, Thing user) {
        Map<Thing, Standing> users = all.getOrDefault(connection, new LinkedHashMap<>());
        if (users.remove(user) != null) {
            tell(connection);
        }
    }

    private void tell(String name) {
        Map<Thing, Standing> users = all.get(name);
        Map<State, List<Map.Entry<Thing, Standing>>> byState = users.entrySet().stream()
                .collect(Collectors.groupingBy(
                        user -> user.getValue().state, () -> new EnumMap<>(State.class), Collectors.toList()));
        Set<State> there = byState.keySet();
        State worst = WORST_FIRST.stream()
                .filter(there::contains)
                .min(Comparator.comparing(WORST_FIRST::indexOf))
                .orElse(State.CLOSED);
        if (worst == State.CLOSED) {
            connections.of(Thing.connection(name)).become(State.CLOSED, "nothing uses it");
            return;
        }
        List<Map.Entry<Thing, Standing>> its = byState.get(worst);
        Standing first = its.getFirst().getValue();
        String reason = worst == State.CONNECTED ? "used by " + names(its) : first.reason + "; " + names(its);
        connections.of(Thing.connection(name)).become(worst, reason, first.detail);
    }

    private static String names(List<Map.Entry<Thing, Standing>> users) {
        return users.stream()
                .map(user -> user.getKey().sort().word() + " " + user.getKey().name())
                .sorted()
                .collect(Collectors.joining(", "));
    }
}
