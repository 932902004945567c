package org.holtra.service.balance;

import java.time.Instant;

/** How often something happened to an inlet or lane within a minute. */
public record TallyRow(Instant minute, String what, String name, long count) {}
