package org.holtra.service.dispatch;

import java.util.List;
import org.holtra.core.delivery.Verdict;

/**
 * What an attempt came to.
 *
 * @param code what the destination answered in its protocol's own words, such as {@code 202}; null if nothing came
 * @param cause a short word for grouping what failed alike
 * @param parts what it came to for each part of the request, in their order; empty if the verdict is for all
 */
public record Attempted(Verdict verdict, String code, String cause, Exchange exchange, List<Attempted> parts) {

    public Attempted(Verdict verdict, String code, String cause, Exchange exchange) {
        this(verdict, code, cause, exchange, List.of());
    }

    /** Nothing was answered. */
    public static Attempted unanswered(Verdict verdict, String cause, Exchange exchange) {
        return new Attempted(verdict, null, cause, exchange);
    }
}
