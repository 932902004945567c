package org.holtra.service.reading;

/** Whose messages are remembered together: those of a device, or null, and whether it is simulated. */
public record Whose(String device, boolean simulated) {}
