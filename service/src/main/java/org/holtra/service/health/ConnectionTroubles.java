package org.holtra.service.health;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.cluster.Node;
import org.holtra.service.connections.Connection;
import org.holtra.service.connections.Connection.State;
import org.holtra.service.connections.Connections;
import org.holtra.service.connections.Thing;
import org.holtra.service.intake.Sources;
import org.springframework.stereotype.Component;

/**
 * Connections of inlets that are refused, or have been broken for a while. A node sees its own only: what it says of one is
 * taken back by itself, or by the others once it is gone.
 */
@Component
class ConnectionTroubles {

    static final String WHAT = "connection";

    private static final Duration BROKEN = Duration.ofMinutes(1);
    private static final String AT_NODE = "@";

    private final Connections connections;
    private final Sources sources;
    private final Node node;

    ConnectionTroubles(Connections connections, Sources sources, Node node) {
        this.connections = connections;
        this.sources = sources;
        this.node = node;
    }

    /** Those that this node sees. */
    List<Trouble> all(Setup setup, Instant now) {
        return setup.inlets().values().stream()
                .flatMap(inlet -> trouble(inlet, now).stream())
                .toList();
    }

    private Optional<Trouble> trouble(Inlet inlet, Instant now) {
        if (inlet.closed()) {
            return Optional.empty();
        }
        return connections
                .status(Thing.inlet(inlet.name()))
                .filter(status -> tells(status, now))
                .map(status -> new Trouble(
                        WHAT,
                        name(inlet),
                        status.since(),
                        "inlet " + inlet.name() + " is " + status.state().word()
                                + (status.reason() == null ? "" : ": " + status.reason())));
    }

    private static boolean tells(Connection.Status status, Instant now) {
        return status.state() == State.REFUSED
                || status.state() == State.WAITING
                        && status.since().plus(BROKEN).isBefore(now);
    }

    /** An inlet that runs on every node may be refused on one of them. */
    private String name(Inlet inlet) {
        return sources.isOnEveryNode(inlet) ? inlet.name() + AT_NODE + node.name() : inlet.name();
    }

    /** Whether this node can tell that a trouble it does not see is over. */
    boolean knowsTheEndOf(Trouble trouble, Setup setup) {
        String[] name = trouble.name().split(AT_NODE, 2);
        Inlet inlet = setup.inlets().get(name[0]);
        if (inlet == null || inlet.closed()) {
            return true;
        }
        if (name.length > 1) {
            return name[1].equals(node.name())
                    || node.all().stream().noneMatch(one -> one.name().equals(name[1]));
        }
        return connections
                .status(Thing.inlet(inlet.name()))
                .filter(status -> status.state() != State.ELSEWHERE && status.state() != State.CLOSED)
                .isPresent();
    }
}
