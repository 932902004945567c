package org.holtra.service.dispatch;

import org.holtra.core.setup.Kind;
import org.holtra.core.setup.Outlet;
import org.holtra.service.credentials.Credential;

/** A kind of outlet. */
public interface OutletKind extends Kind {

    /**
     * Readies the way to a destination. Nothing is sent.
     *
     * @param credential what the outlet presents, or null
     */
    Sink open(Outlet outlet, Credential credential);
}
