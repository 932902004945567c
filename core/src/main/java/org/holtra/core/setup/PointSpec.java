package org.holtra.core.setup;

import java.util.Map;

/**
 * A measuring point that devices of a model have.
 *
 * @param fields its fields, each with the name it has in the device's data
 * @param facts what is known of such points as long as nothing else is said of one
 */
public record PointSpec(Map<String, String> fields, Map<String, Object> facts) {}
