package org.holtra.service.setups;

import java.util.List;
import org.holtra.core.setup.SetupProblem;

/** A setup that was not adopted. */
public final class SetupRefused extends Exception {

    public enum Why {
        /** It has errors. */
        WRONG,
        /** Another was adopted meanwhile. */
        OVERTAKEN,
        /** Deliveries wait on lanes that would be gone or go elsewhere. */
        WAITING
    }

    private final Why why;
    private final List<SetupProblem> problems;

    SetupRefused(Why why, String what, List<SetupProblem> problems) {
        super(what);
        this.why = why;
        this.problems = problems;
    }

    public Why why() {
        return why;
    }

    public List<SetupProblem> problems() {
        return problems;
    }
}
