package org.holtra.core.shape;

/** A shape that could not be filled for a message: where in the shape, and why, in a sentence. */
public final class ShapeFailure extends Exception {

    private final String where;
    private final String why;
    private final boolean missing;

    /** What stands there cannot be sent. */
    public ShapeFailure(String where, String why) {
        this(where, why, false);
    }

    /** @param missing whether something the shape needs is not there */
    ShapeFailure(String where, String why, boolean missing) {
        super("the shape could not be filled at " + where + ": " + why);
        this.where = where;
        this.why = why;
        this.missing = missing;
    }

    /** The place in the shape, such as {@code body.items[2].level}. */
    public String where() {
        return where;
    }

    public String why() {
        return why;
    }

    boolean missing() {
        return missing;
    }
}
