package org.holtra.service.health;

import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletionException;
import java.util.stream.Collectors;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.Transport;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.balance.SpoolReports;
import org.holtra.service.cluster.Node;
import org.holtra.service.intake.Intake;
import org.holtra.service.journal.JournalUnavailable;
import org.holtra.service.setups.Setups;
import org.holtra.service.spool.Spool;
import org.holtra.service.spool.SpoolTeller;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/**
 * Watches over Holtra itself. Each trouble that comes, and each that goes, is a message of type alarm by the inlet
 * {@code holtra}, which lanes can carry to people like any other.
 */
@Component
public class HealthMonitor {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Logger log = LoggerFactory.getLogger(HealthMonitor.class);

    private final TroubleMapper mapper;
    private final Troubles signs;
    private final ConnectionTroubles connections;
    private final Voice voice;
    private final Reports reports;

    /** How it is told. */
    @Component
    record Voice(Setups setups, Intake intake, InstantSource clock) {}

    /** What this node tells of itself. */
    @Component
    record Reports(Node node, Spool spool, SpoolTeller teller) {}

    HealthMonitor(TroubleMapper mapper, Troubles signs, ConnectionTroubles connections, Voice voice, Reports reports) {
        this.mapper = mapper;
        this.signs = signs;
        this.connections = connections;
        this.voice = voice;
        this.reports = reports;
    }

    /** What is wrong now, that which came first before the others. */
    public List<Trouble> open() {
        return mapper.open();
    }

    /** What this node can tell of itself while the database is away. */
    public List<Trouble> withoutDatabase(Instant since) {
        Spool.State state = reports.spool.state();
        String text = "the database does not answer; "
                + (state.on()
                        ? "messages are taken into the spool of node " + reports.node.name()
                        : "no messages are taken, since there is no spool");
        List<Trouble> all = new ArrayList<>(List.of(new Trouble("database", reports.node.name(), since, text)));
        if (state.trouble() != null) {
            all.add(new Trouble("spool", reports.node.name(), since, state.trouble()));
        }
        return all;
    }

    /** How this node's own spool stands. */
    public SpoolReports.Report spool() {
        return reports.teller.report();
    }

    /** Called every so often: tells the other nodes how this one's spool stands. */
    public void report() {
        try {
            reports.teller.tell();
        } catch (DataAccessException e) {
            log.debug("How the spool stands could not be written: {}", e.getMessage());
        }
    }

    /** Looks for trouble, and raises and clears alarms. */
    public void look() {
        try {
            Instant now = voice.clock.instant();
            Setup setup = voice.setups.current();
            List<Trouble> seen = new ArrayList<>(signs.all(now));
            seen.addAll(connections.all(setup, now));
            Map<String, Trouble> found = byKey(seen);
            Map<String, Trouble> open = byKey(mapper.open());
            found.forEach((key, trouble) -> {
                if (!open.containsKey(key)) {
                    raise(trouble);
                } else if (!open.get(key).text().equals(trouble.text())) {
                    mapper.retell(trouble);
                }
            });
            open.forEach((key, trouble) -> {
                boolean over = !found.containsKey(key)
                        && (!trouble.what().equals(ConnectionTroubles.WHAT)
                                || connections.knowsTheEndOf(trouble, setup));
                if (over && mapper.clear(trouble, now) > 0) {
                    say(voice.intake.nextId(), trouble, "cleared", now);
                    log.info("No more: {}", trouble.text());
                }
            });
        } catch (DataAccessException e) {
            log.debug("Trouble could not be looked for: {}", e.getMessage());
        }
    }

    private static Map<String, Trouble> byKey(List<Trouble> troubles) {
        return troubles.stream()
                .collect(Collectors.toMap(
                        one -> one.what() + " " + one.name(), one -> one, (a, b) -> a, LinkedHashMap::new));
    }

    private void raise(Trouble trouble) {
        MessageId id = voice.intake.nextId();
        if (mapper.raise(trouble, id.value()) > 0) {
            log.warn("Trouble: {}", trouble.text());
            say(id, trouble, "raised", voice.clock.instant());
        }
    }

    private void say(MessageId id, Trouble trouble, String state, Instant at) {
        Optional<Inlet> inlet = voice.setups.current().inlet(Setup.OWN_INLET);
        if (inlet.isEmpty()) {
            return;
        }
        Map<String, Object> data = new LinkedHashMap<>();
        data.put("alarm", trouble.what());
        data.put("name", trouble.name());
        data.put("state", state);
        data.put("text", trouble.text());
        data.put("since", trouble.since().toString());
        data.put("at", at.toString());
        data.put("node", reports.node.name());
        Arrival arrival =
                new Arrival(id, Setup.OWN_INLET, Transport.NONE, "application/json", JSON.writeValueAsBytes(data));
        try {
            voice.intake.acknowledged(voice.intake.take(arrival, inlet.get()).join(), Setup.OWN_INLET);
        } catch (JournalUnavailable | CompletionException e) {
            log.warn("An alarm could not be kept: {}", trouble.text(), e);
        }
    }
}
