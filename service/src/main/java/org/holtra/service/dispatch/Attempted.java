package org.holtra.service.dispatch;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.delivery.Verdict;

/**
 * What an attempt came to.
 *
 * @param request what was sent, in the words of the outlet's kind, with secrets masked
 * @param status the number the destination answered with, or null
 * @param answer the beginning of what it answered, or null if nothing came
 * @param cause a short word for grouping what failed alike
 * @param each for what went together: what it came to for each, in the order sent; empty if the verdict is for all
 */
public record Attempted(
        Verdict verdict,
        Map<String, Object> request,
        Integer status,
        byte[] answer,
        String cause,
        List<Attempted> each) {

    public Attempted(Verdict verdict, Map<String, Object> request, Integer status, byte[] answer, String cause) {
        this(verdict, request, status, answer, cause, List.of());
    }

    /** The same, with more said of the request. */
    Attempted with(String name, Object more) {
        Map<String, Object> said = new LinkedHashMap<>(request);
        said.put(name, more);
        return new Attempted(verdict, said, status, answer, cause);
    }
}
