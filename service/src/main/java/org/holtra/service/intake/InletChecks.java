package org.holtra.service.intake;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.holtra.core.setup.Inlet;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.connections.CheckSteps;
import org.holtra.service.connections.Connection;
import org.holtra.service.connections.Connections;
import org.holtra.service.connections.Diary;
import org.holtra.service.connections.Thing;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.history.MessageQuery;
import org.holtra.service.history.Records;
import org.holtra.service.journal.entry.StoredMessage;
import org.springframework.stereotype.Component;

/** Shows step by step whether an inlet would work, and what became of its last message. Takes no message. */
@Component
public class InletChecks {

    private static final Set<String> WELL =
            Set.of(StoredMessage.READ, StoredMessage.DUPLICATE, StoredMessage.DEFERRED, StoredMessage.SPOOLED);
    private static final Duration LOOKED_BACK = Duration.ofDays(30);

    /** What is known of inlets that are open. */
    @Component
    record Known(Records records, Connections connections, Diary diary) {}

    private final Sources sources;
    private final CredentialStore credentials;
    private final Known known;
    private final InstantSource clock;

    InletChecks(Sources sources, CredentialStore credentials, Known known, InstantSource clock) {
        this.sources = sources;
        this.credentials = credentials;
        this.known = known;
        this.clock = clock;
    }

    /**
     * @param inlet as it is, or as somebody wants it to be
     * @param active whether the inlet is the active setup's
     */
    public List<CheckStep> check(Inlet inlet, boolean active) {
        SourceKind kind = sources.kind(inlet);
        Credential credential =
                kind.credential(inlet).flatMap(credentials::find).orElse(null);
        List<CheckStep> all = new ArrayList<>(kind.check(inlet, credential));
        if (active) {
            CheckSteps steps = new CheckSteps();
            state(inlet, steps);
            lastMessage(inlet, steps);
            all.addAll(steps.all());
        }
        known.diary.writeFailures(Thing.inlet(inlet.name()), all);
        return all;
    }

    private void state(Inlet inlet, CheckSteps steps) {
        if (inlet.closed()) {
            steps.uncertain("open", "the inlet is closed and takes nothing", "Open it.");
            return;
        }
        Optional<Connection.Status> status = known.connections.status(Thing.inlet(inlet.name()));
        String told = status.map(one -> one.state().word() + (one.reason() == null ? "" : ": " + one.reason()))
                .orElse("not opened yet");
        if (status.filter(one -> one.state() == Connection.State.CONNECTED).isPresent()) {
            steps.passed("open", told);
        } else {
            steps.failed("open", told, "The inlet's diary tells since when. It is tried again by itself.");
        }
    }

    private void lastMessage(Inlet inlet, CheckSteps steps) {
        Instant now = clock.instant();
        MessageQuery query = MessageQuery.ofInlet(inlet.name(), now.minus(LOOKED_BACK), now.plusSeconds(60), 1);
        List<StoredMessage> last = known.records.messages(query).messages();
        if (last.isEmpty()) {
            steps.uncertain(
                    "last message",
                    "none has come in " + LOOKED_BACK.toDays() + " days",
                    sources.exampleCommand(inlet)
                            .map(command -> "Send one: " + command)
                            .orElse(null));
            return;
        }
        StoredMessage message = last.getFirst();
        String told = message.id().received() + ": " + message.state()
                + (message.device() == null ? "" : ", of " + message.device());
        if (WELL.contains(message.state())) {
            steps.passed("last message", told);
        } else {
            steps.failed(
                    "last message",
                    told + (message.reason() == null ? "" : ": " + message.reason()),
                    "Open its trace: " + message.id() + ".");
        }
    }
}
