package org.holtra.core.shape;

/** A shape that could not be filled for a message: where in the shape, and why, in a sentence. */
public final class ShapeFailure extends Exception {

    ShapeFailure(String where, String why) {
        super("the shape could not be filled at " + where + ": " + why);
    }
}
