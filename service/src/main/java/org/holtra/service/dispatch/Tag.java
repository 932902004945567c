package org.holtra.service.dispatch;

/**
 * One value among those that a request writes, as the destination's own people know it: a series, a metric.
 *
 * @param name as the destination has it
 */
public record Tag(String name, Object value) {}
