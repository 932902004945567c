package org.holtra.service.connections;

import java.util.ArrayList;
import java.util.List;
import org.holtra.service.connections.CheckStep.Result;

/** Notes the steps of a check, each with the time since the one before. Used by one thread. */
public final class CheckSteps {

    private final List<CheckStep> steps = new ArrayList<>();
    private long began = System.nanoTime();

    public void passed(String step, String told) {
        add(step, Result.PASSED, told, null);
    }

    public void failed(String step, String told, String mend) {
        add(step, Result.FAILED, told, mend);
    }

    /** @param offer a setting that would mend it */
    public void failed(String step, String told, String mend, CheckStep.Offer offer) {
        add(step, Result.FAILED, told, mend, offer);
    }

    /** @param mend null where there is nothing to do */
    public void uncertain(String step, String told, String mend) {
        add(step, Result.UNCERTAIN, told, mend);
    }

    private void add(String step, Result result, String told, String mend) {
        add(step, result, told, mend, null);
    }

    private void add(String step, Result result, String told, String mend, CheckStep.Offer offer) {
        long now = System.nanoTime();
        steps.add(new CheckStep(step, result, told, mend, offer, (now - began) / 1_000));
        began = now;
    }

    public List<CheckStep> all() {
        return List.copyOf(steps);
    }
}
