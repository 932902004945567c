package org.holtra.core.pasting;

import java.util.List;
import java.util.Map;

/**
 * What a pasted example comes to: an outlet, its credential and a skeleton shape, apart.
 *
 * @param type what it was taken for: {@code curl}, {@code request}, {@code url} or {@code json}
 * @param to for an outlet of kind http; without a url if the example had none
 * @param credential null if the example shows none
 * @param shape the skeleton: query, headers, format and body of the example
 * @param slips what is likely wrong in it
 */
public record Proposal(
        String type, Map<String, Object> to, Login credential, Map<String, Object> shape, List<Slip> slips) {

    /**
     * A credential that stood in the example.
     *
     * @param form {@code bearer}, {@code basic}, {@code header} or {@code query}
     * @param name of the header or parameter, or the user
     * @param secret empty where the example has only a placeholder for it
     */
    public record Login(String form, String name, String secret) {}

    /**
     * @param what is wrong, in a sentence
     * @param mend what was done about it, or has to be
     */
    public record Slip(String what, String mend) {}
}
