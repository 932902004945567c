package org.holtra.service.intake;

import java.util.List;
import java.util.Optional;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.schema.Kind;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.credentials.Credential;

/** A kind of inlet. */
public interface SourceKind extends Kind {

    /** On which nodes an inlet runs. */
    enum Placement {
        /** On every node, each taking what comes to it. */
        EVERY_NODE,
        /** On one, and on another once that one is gone. */
        ONE_NODE
    }

    /**
     * Opens an inlet. Returns soon: what takes time, such as connecting, is done by the source's own threads, and told of by
     * its connection.
     *
     * @throws RuntimeException if it cannot be opened as it is; it is tried again later
     */
    Source open(SourceContext context);

    default Placement placement(Inlet inlet) {
        return Placement.EVERY_NODE;
    }

    /** Whether its senders can be made to wait: then it is paused while nothing can be kept, and never spooled. */
    default boolean canWait() {
        return true;
    }

    /** Whether it is open while the inlet is closed, to tell senders so. */
    default boolean answersWhileClosed() {
        return false;
    }

    /** Whether an inlet that is changed is opened anew before it is closed as it was, so that no sender meets a gap. */
    default boolean overlaps() {
        return false;
    }

    /**
     * Looks step by step whether an inlet would work: as it is, or as somebody wants it to be. Takes no message.
     *
     * @param credential what senders are checked by, or what it signs in with; null if there is none of that name
     */
    List<CheckStep> check(Inlet inlet, Credential credential);

    /** Where senders reach an inlet, or what it reads, as people are told it. */
    String address(Inlet inlet);

    /** Whether {@link #address} is a path at the service's own address. */
    default boolean addressIsPath() {
        return false;
    }

    /**
     * A command that sends an inlet its first message. {@code ORIGIN} stands in it for the service's own address, and words in
     * capitals for secrets.
     *
     * @param credential what senders are checked by, or null
     */
    default Optional<String> exampleCommand(Inlet inlet, Credential credential) {
        return Optional.empty();
    }

    /** The name of the credential an inlet uses; empty if it uses none. */
    default Optional<String> credential(Inlet inlet) {
        return Optional.ofNullable(inlet.credential());
    }
}
