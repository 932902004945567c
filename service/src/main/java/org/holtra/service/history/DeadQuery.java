package org.holtra.service.history;

import java.time.Instant;
import java.util.UUID;

/**
 * Which dead letters; null where anything will do. Those older than the one that died at {@code before} and whose delivery is
 * {@code delivery}, if these are given.
 */
public record DeadQuery(String lane, String outlet, String cause, Instant before, UUID delivery, int limit) {}
