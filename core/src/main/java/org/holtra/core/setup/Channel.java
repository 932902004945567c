package org.holtra.core.setup;

/**
 * A field that is made of what a device sends: of one of its channels, by factor and unit.
 *
 * @param from where it stands in what was sent; names are joined with dots, and a number is a place in a list, from 0
 * @param field the name of the field
 * @param point the measuring point that it is a field of; null if it is of the device itself
 * @param factor what is sent is multiplied by; null for 1
 * @param unit of the field, as a UCUM code; or null
 * @param min and {@code max}: the range outside of which a value is not to be believed, in the field's unit; null for none
 * @param label for people, or null
 */
public record Channel(
        String from, String field, String point, Double factor, String unit, Double min, Double max, String label) {

    /** What the field is called in the data: that of a point stands in an object of the point. */
    public String name() {
        return point == null ? field : object() + "." + field;
    }

    /** The name of the point's object in the data: expressions would take a dash for a minus. Null without a point. */
    public String object() {
        return point == null ? null : point.replace('-', '_');
    }

    FieldSpec spec() {
        return new FieldSpec(label, unit, min, max);
    }
}
