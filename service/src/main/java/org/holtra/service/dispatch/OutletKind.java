package org.holtra.service.dispatch;

import java.util.List;
import org.holtra.core.setup.Kind;
import org.holtra.core.setup.Outlet;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.credentials.Credential;

/** A kind of outlet. */
public interface OutletKind extends Kind {

    /** Where an outlet sends, as people are told it. */
    String address(Outlet outlet);

    /**
     * Looks step by step whether an outlet would work. Sends nothing of a message.
     *
     * @param credential what the outlet presents, or null
     */
    List<CheckStep> check(Outlet outlet, Credential credential);

    /**
     * Readies the way to a destination. Nothing is sent.
     *
     * @param credential what the outlet presents, or null
     */
    Sink open(Outlet outlet, Credential credential);
}
