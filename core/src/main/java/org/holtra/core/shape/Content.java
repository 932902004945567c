package org.holtra.core.shape;

/**
 * What a shape makes of a message, before an outlet adds its own.
 *
 * @param contentType of the body; null where there is none
 */
public record Content(Envelope envelope, String contentType, byte[] body) {}
