package org.holtra.service.dispatch;

import java.util.List;
import java.util.Map;

/**
 * An outlet as an example of a destination's documentation suggests it.
 *
 * @param outlet its fields, as far as the example has them
 * @param credential null if the example shows none
 * @param shape for lanes to it
 * @param found what was read in the example, for people
 * @param slips what is likely wrong in it
 */
public record OutletProposal(
        Map<String, Object> outlet, Login credential, Map<String, Object> shape, List<Found> found, List<Slip> slips) {

    /** @param fields of the form; a secret is empty where the example has only a placeholder for it */
    public record Login(String form, Map<String, String> fields) {}

    public record Found(String label, String value) {}

    /**
     * @param what is wrong, in a sentence
     * @param mend what was done about it, or has to be
     */
    public record Slip(String what, String mend) {}
}
