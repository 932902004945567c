package org.holtra.service.jobs;

import java.time.Duration;
import java.util.List;

/** A type of job: does it step by step. */
public interface Work {

    /** What it is called. */
    String what();

    /**
     * Does the next step, within a transaction that also notes how far it has come; so each step is done once, whatever
     * node does it.
     */
    Step step(Job job);

    /**
     * What a step did.
     *
     * @param done how many things
     * @param reached how far it has come now; null if that was the last
     * @param pause before the next step
     * @param outlets that have something to do
     * @param note what there is to say, such as what it waits for; or null
     */
    record Step(long done, String reached, Duration pause, List<String> outlets, String note) {

        public Step(long done, String reached, Duration pause, List<String> outlets) {
            this(done, reached, pause, outlets, null);
        }
    }
}
