package org.holtra.core.setup;

import java.util.Map;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.Expression;

/**
 * A way in, compiled.
 *
 * @param at what its kind needs to know
 * @param device gives the device's key; null if its messages are of no device
 * @param time gives the event time; null for the time of arrival
 * @param sort gives the sort; null for {@code reading}
 * @param simulated tells the messages of simulated devices; null for none
 */
public record Inlet(
        String name,
        String kind,
        Map<String, Object> at,
        Expression device,
        Expression time,
        Expression sort,
        Condition simulated) {}
