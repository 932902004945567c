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
        WAITING,
        /** An outlet that would be gone made devices at its destination, which are there still. */
        MADE
    }

    private final Why why;
    private final List<SetupProblem> problems;
    private final Map<String, Long> waiting;
    private final Map<String, Long> made;

    SetupRefused(Why why, String what, List<SetupProblem> problems) {
        this(why, what, problems, Map.of(), Map.of());
    }

    private SetupRefused(
            Why why, String what, List<SetupProblem> problems, Map<String, Long> waiting, Map<String, Long> made) {
        super(what);
        this.made = made;
        this.why = why;
        this.problems = problems;
        this.waiting = waiting;
    }

    /** @param lanes how many deliveries wait on each */
    static SetupRefused waiting(String what, Map<String, Long> lanes) {
        return new SetupRefused(Why.WAITING, what, List.of(), lanes, Map.of());
    }

    /** @param outlets how many devices each made */
    static SetupRefused made(String what, Map<String, Long> outlets) {
        return new SetupRefused(Why.MADE, what, List.of(), Map.of(), outlets);
    }

    /** How many devices outlets that would be gone made at their destinations, which are there still, by outlet. */
    public Map<String, Long> made() {
        return made;
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
