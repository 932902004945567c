package org.holtra.service.intake;

import java.util.Map;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Kind;

/** A kind of inlet. */
public interface InletKind extends Kind {

    /** A setup has taken effect: from now on messages come in by these inlets, all of this kind, and by no others. */
    void adopted(Map<String, Inlet> inlets);

    /** Where senders reach an inlet, relative to the service's address. */
    String address(Inlet inlet);
}
