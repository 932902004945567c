package org.holtra.service.dispatch;

import java.time.InstantSource;
import org.holtra.service.journal.Journal;
import org.springframework.stereotype.Component;

/** What every outlet's runner works with. */
@Component
record Workshop(Journal journal, Attempter attempter, MemoryBudget budget, HealthBook book, InstantSource clock) {}
