package org.holtra.service.api;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.SharedConnection;
import org.holtra.service.connections.Connection;
import org.holtra.service.connections.Connections;
import org.holtra.service.connections.Diary;
import org.holtra.service.connections.Thing;
import org.holtra.service.setups.Setups;
import org.holtra.service.sharing.Look;
import org.holtra.service.sharing.LookFailed;
import org.holtra.service.sharing.SharedConnections;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** The connections that inlets and outlets share, such as brokers. */
@RestController
@RequestMapping("/api/v1/connections")
class ConnectionController {

    private static final int USUAL_SECONDS = 5;
    private static final int LONGEST_SECONDS = 60;

    /**
     * @param address where it leads
     * @param credential that it is opened with; null if it has none
     * @param to its settings
     * @param inlets that use it
     * @param outlets that use it
     * @param status how it stands on the node that answers; null if nothing uses it there
     */
    record ConnectionView(
            String name,
            String kind,
            String address,
            String credential,
            Map<String, Object> to,
            List<String> inlets,
            List<String> outlets,
            Connection.Status status) {}

    /**
     * @param within what to look at, as an inlet would name it; all if it is not given
     * @param seconds how long; 5 if not given, up to 60
     */
    record LookRequest(String within, Integer seconds) {}

    private final Setups setups;
    private final SharedConnections shared;
    private final Connections connections;
    private final Diary diary;

    ConnectionController(Setups setups, SharedConnections shared, Connections connections, Diary diary) {
        this.setups = setups;
        this.shared = shared;
        this.connections = connections;
        this.diary = diary;
    }

    /** The shared connections, how they stand, and what uses them. */
    @GetMapping
    List<ConnectionView> list() {
        Setup setup = setups.current();
        return setup.connections().values().stream()
                .map(connection -> new ConnectionView(
                        connection.name(),
                        connection.kind(),
                        shared.address(connection),
                        connection.credential(),
                        connection.to(),
                        names(setup.inlets().values().stream()
                                .filter(inlet -> connection.equals(inlet.connection()))
                                .map(Inlet::name)),
                        names(setup.outlets().values().stream()
                                .filter(outlet -> connection.equals(outlet.connection()))
                                .map(Outlet::name)),
                        connections.status(Thing.connection(connection.name())).orElse(null)))
                .toList();
    }

    private static List<String> names(Stream<String> all) {
        return all.sorted().toList();
    }

    /** What happened to a shared connection, the newest first. */
    @GetMapping("/{name}/diary")
    List<Diary.Line> diary(@PathVariable String name) {
        there(name);
        return diary.of(Thing.connection(name));
    }

    /**
     * Looks what comes over a shared connection now, such as the topics of a broker with their last messages. Answers when the time
     * is over. What is seen stays where it is, and no inlet takes it.
     */
    @PostMapping("/{name}/look")
    Look look(@PathVariable String name, @RequestBody LookRequest wanted) {
        int seconds = wanted.seconds == null ? USUAL_SECONDS : wanted.seconds;
        if (seconds < 1 || seconds > LONGEST_SECONDS) {
            throw Problem.badRequest("seconds", "From 1 to " + LONGEST_SECONDS + " seconds can be looked.");
        }
        try {
            return shared.look(there(name), wanted.within == null ? "" : wanted.within, Duration.ofSeconds(seconds));
        } catch (IllegalArgumentException e) {
            throw Problem.badRequest("within", e.getMessage());
        } catch (LookFailed e) {
            throw new Problem(
                    HttpStatus.BAD_GATEWAY, "Nothing can be seen", e.getMessage() + ". " + e.mend(), Map.of());
        }
    }

    private SharedConnection there(String name) {
        SharedConnection connection = setups.current().connections().get(name);
        if (connection == null) {
            throw Problem.notFound("connection", name);
        }
        return connection;
    }
}
