package org.holtra.core.message;

/**
 * Who sent a message, and as what.
 *
 * @param device the key of the device, or null where the inlet names none
 * @param simulated whether a simulated device sent it
 * @param sequence the device's own number for it, or null where it counts none
 */
public record Origin(String device, MessageType type, boolean simulated, Long sequence) {}
