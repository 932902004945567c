package org.holtra.service.dispatch;

import java.time.InstantSource;
import org.holtra.service.cluster.Node;
import org.holtra.service.connections.Diary;
import org.holtra.service.journal.Backlog;
import org.holtra.service.journal.Journal;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.stereotype.Component;

/** What every outlet's runner works with. */
@Component
record DispatchContext(Keeping keeping, Sending sending, MemoryBudget budget, Known known, InstantSource clock) {

    /** How attempts are made. */
    @Component
    record Sending(Attempter attempter, Batches batches, UnknownDevices unknownDevices) {}

    UnknownDevices unknownDevices() {
        return sending.unknownDevices;
    }

    Attempter attempter() {
        return sending.attempter;
    }

    Batches batches() {
        return sending.batches;
    }

    /** What is known of outlets beyond this process. */
    @Component
    record Known(OutletHealthStore health, PaceStore pace, Diary diary, ApplicationEventPublisher events) {}

    /** Who is told of what becomes of devices. */
    ApplicationEventPublisher events() {
        return known.events;
    }

    Diary diary() {
        return known.diary;
    }

    OutletHealthStore healths() {
        return known.health;
    }

    PaceStore paces() {
        return known.pace;
    }

    /** Where deliveries are kept. */
    @Component
    record Keeping(Journal journal, Backlog backlog, Node node) {}

    Journal journal() {
        return keeping.journal;
    }

    Backlog backlog() {
        return keeping.backlog;
    }

    Node node() {
        return keeping.node;
    }
}
