package org.holtra.service.undertakings;

import java.time.Duration;
import java.util.List;

/** A sort of undertaking: does it step by step. */
public interface Work {

    /** What it is called. */
    String what();

    /**
     * Does the next step, within a transaction that also notes how far it has come; so each step is done once, whatever
     * node does it.
     */
    Step step(Undertaking undertaking);

    /**
     * What a step did.
     *
     * @param done how many things
     * @param reached how far it has come now; null if that was the last
     * @param pause before the next step
     * @param outlets that have something to do
     */
    record Step(long done, String reached, Duration pause, List<String> outlets) {}
}
