package org.holtra.core.reading;

import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Origin;
import org.holtra.core.setup.Inlet;

/**
 * An arrival whose content has been read and whose sender is told, before its payload is decoded.
 *
 * @param scope what the inlet's expressions see
 */
public record Opened(Arrival arrival, Inlet inlet, Origin origin, Scope scope) {

    /** What it has in common with its duplicates; null if the inlet tells none, or it says nothing. */
    public String duplicateKey() {
        Inlet.Duplicates duplicates = inlet.identity().duplicates();
        if (duplicates == null) {
            return null;
        }
        return duplicates.same().evaluate(scope) instanceof Outcome.Value(Object value) ? Plain.text(value) : null;
    }
}
