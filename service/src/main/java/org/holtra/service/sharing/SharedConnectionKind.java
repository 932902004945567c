package org.holtra.service.sharing;

import java.time.Duration;
import java.util.List;
import org.holtra.core.setup.SharedConnection;
import org.holtra.core.setup.schema.Kind;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.credentials.Credential;

/** A kind of connection that several inlets and outlets share. */
public interface SharedConnectionKind extends Kind {

    /** Where it leads, as people are told it. */
    String address(SharedConnection connection);

    /**
     * Looks step by step whether it could be opened.
     *
     * @param credential what is presented, or null
     */
    List<CheckStep> check(SharedConnection connection, Credential credential);

    /**
     * Looks what comes over it now, before any inlet takes it. Blocks for the time given, or until very much has been seen.
     *
     * @param within what to look at, as an inlet would name it; empty for all
     * @throws LookFailed if nothing can be seen
     * @throws IllegalArgumentException if {@code within} is no such name, with a sentence for people
     */
    Look look(SharedConnection connection, Credential credential, String within, Duration time) throws LookFailed;
}
