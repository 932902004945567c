package org.holtra.service.devices;

import java.util.Map;

/**
 * What a sender says of a field itself.
 *
 * @param type in the words of its protocol, such as {@code Int32}; null if it does not say
 * @param unit as the sender writes it; null if it does not say
 * @param properties what else it says, by name
 */
public record FieldDescription(String type, String unit, Map<String, Object> properties) {}
