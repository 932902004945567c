package org.holtra.core.setup;

/**
 * What is known of a field of a model's data.
 *
 * @param label for people, or null
 * @param unit its UCUM code, or null
 * @param min and {@code max}: the range outside of which a value is not to be believed; null for none
 */
public record FieldSpec(String label, String unit, Double min, Double max) {}
