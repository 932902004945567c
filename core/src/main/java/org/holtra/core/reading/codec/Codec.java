package org.holtra.core.reading.codec;

/** Bytes to fields and back. */
public sealed interface Codec permits Layout, Script {}
