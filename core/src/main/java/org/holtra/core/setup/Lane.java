package org.holtra.core.setup;

import java.util.Set;
import org.holtra.core.delivery.RetrySchedule;
import org.holtra.core.expression.Condition;
import org.holtra.core.shape.Shape;

/**
 * Carries messages from inlets to one outlet, compiled.
 *
 * @param pick which of their messages; null for all
 */
public record Lane(String name, Set<String> inlets, Condition pick, Shape shape, String outlet, RetrySchedule retry) {}
