package org.holtra.core.shape;

/** Counts the parts of what a shape makes of one message: lists inside lists make very many of few. */
final class Parts {

    static final int MOST = 100_000;

    private int made;

    /** @throws ShapeFailure if there are more than one message may have */
    void one(String where) throws ShapeFailure {
        if (++made > MOST) {
            throw new ShapeFailure(where, "it would have more than " + MOST + " parts", false);
        }
    }
}
