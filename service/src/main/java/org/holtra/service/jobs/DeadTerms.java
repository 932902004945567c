package org.holtra.service.jobs;

import org.holtra.service.journal.entry.DeadChoice;

/** @param outlet to go to; null for the one of each lane */
public record DeadTerms(DeadChoice dead, String outlet) {}
