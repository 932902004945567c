package org.holtra.core.reading.codec;

/**
 * A script with the functions of the LoRa Alliance's payload codec API (TS013-1.0.0): {@code decodeUplink},
 * {@code encodeDownlink}, {@code decodeDownlink}. It runs elsewhere, since a script can only be bounded in a process of
 * its own.
 */
public record Script(String source) implements Codec {}
