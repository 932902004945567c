package org.holtra.core.reading.content;

import tools.jackson.core.StreamReadConstraints;

/** How much one body may hold, whatever its format, so that reading it takes no longer than its length explains. */
final class Bounds {

    /** Values, lists and objects together. */
    static final int VALUES = 100_000;

    /** Lists and objects inside one another. */
    static final int DEPTH = 100;

    /** Of a number: a double has 17, identifiers have a few more. */
    static final int DIGITS = 400;

    /** Characters of a field's name. */
    static final int NAME = 1_000;

    /** A value has up to two tokens, and a list or object has two by itself. */
    static final StreamReadConstraints OF_TOKENS = StreamReadConstraints.builder()
            .maxTokenCount(2L * VALUES)
            .maxNestingDepth(DEPTH)
            .maxNumberLength(DIGITS)
            .maxNameLength(NAME)
            .build();

    private Bounds() {}

    /** @throws UnreadableContent if there are more values than one body may hold */
    static void check(int values) throws UnreadableContent {
        if (values > VALUES) {
            throw new UnreadableContent("the body holds more than " + VALUES + " values; send fewer at a time");
        }
    }
}
