package org.holtra.service.sharing;

import java.time.Duration;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.holtra.core.setup.SharedConnection;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.connections.Connections;
import org.holtra.service.connections.Diary;
import org.holtra.service.connections.Thing;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.setups.SetupAdopted;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;

/** The connections that inlets and outlets share: where they lead, whether they would work, what comes over them. */
@Component
public class SharedConnections {

    private final Map<String, SharedConnectionKind> kinds;
    private final CredentialStore credentials;
    private final Connections connections;
    private final Diary diary;

    SharedConnections(
            Collection<SharedConnectionKind> kinds, CredentialStore credentials, Connections connections, Diary diary) {
        this.kinds = kinds.stream().collect(Collectors.toMap(SharedConnectionKind::name, kind -> kind));
        this.credentials = credentials;
        this.connections = connections;
        this.diary = diary;
    }

    @EventListener
    void adopted(SetupAdopted event) {
        connections.retain(Thing.Sort.CONNECTION, event.after().connections().keySet());
    }

    public String address(SharedConnection connection) {
        return kinds.get(connection.kind()).address(connection);
    }

    public List<CheckStep> check(SharedConnection connection) {
        List<CheckStep> steps = kinds.get(connection.kind()).check(connection, credential(connection));
        diary.writeFailures(Thing.connection(connection.name()), steps);
        return steps;
    }

    /** @throws LookFailed if nothing can be seen */
    public Look look(SharedConnection connection, String within, Duration time) throws LookFailed {
        return kinds.get(connection.kind()).look(connection, credential(connection), within, time);
    }

    private Credential credential(SharedConnection connection) {
        return Optional.ofNullable(connection.credential())
                .flatMap(credentials::find)
                .orElse(null);
    }
}
