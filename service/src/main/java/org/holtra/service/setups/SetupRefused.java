package org.holtra.service.setups;

import java.util.List;
import java.util.Map;
import org.holtra.core.setup.document.SetupProblem;

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
    private final Map<String, Long> waiting;

    SetupRefused(Why why, String what, List<SetupProblem> problems) {
        this(why, what, problems, Map.of());
    }

    /** @param waiting how many deliveries wait, by lane */
    SetupRefused(Why why, String what, List<SetupProblem> problems, Map<String, Long> waiting) {
        super(what);
        this.why = why;
        this.problems = problems;
        this.waiting = waiting;
    }

    public Why why() {
        return why;
    }

    /** How many deliveries wait on lanes that would be gone or go elsewhere, by lane. */
    public Map<String, Long> waiting() {
        return waiting;
    }

    public List<SetupProblem> problems() {
        return problems;
    }
}
