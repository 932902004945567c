package org.holtra.service.memory;

import java.util.UUID;

/** That a message came to a key. */
public record Came(String lane, String key, String zone, UUID message) {}
