package org.holtra.service.dispatch;

import java.util.Collection;
import java.util.List;
import java.util.Optional;
import org.holtra.core.delivery.Fate;
import org.holtra.core.setup.Outlet;
import org.holtra.service.introductions.Introduction;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.journal.Journal;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/** Keeps deliveries of devices back that the outlet's destination does not know yet, and has these introduced there. */
@Component
class UnknownDevices {

    private static final String BY_MESSAGE = "a message";

    private final Introductions introductions;
    private final Journal journal;

    UnknownDevices(Introductions introductions, Journal journal) {
        this.introductions = introductions;
        this.journal = journal;
    }

    /** Why a delivery must wait for its device to be known there, in a sentence; empty if it need not. */
    Optional<String> whyNot(Task task, Outlet outlet) {
        if (outlet.recipe() == null || task.device() == null) {
            return Optional.empty();
        }
        Optional<Introduction> there = introductions.find(outlet.name(), task.device());
        if (there.isPresent()) {
            return there.get().waits();
        }
        try {
            introductions.ask(outlet.name(), List.of(task.device()), BY_MESSAGE);
        } catch (DataAccessException | TransactionException e) {
            return Optional.of("waiting for the database, to have its device introduced at " + outlet.name());
        }
        return introductions
                .find(outlet.name(), task.device())
                .map(Introduction::waits)
                .orElse(Optional.of("waiting to be introduced at " + outlet.name()));
    }

    /**
     * Whether the device of one that waits was introduced before that was written: then nobody has told the table, and it is
     * brought forward here.
     */
    boolean bringForwardKnown(Collection<Task> waiting, String outlet) {
        List<String> known = waiting.stream()
                .map(Task::device)
                .filter(device -> introductions.known(outlet, device).isPresent())
                .distinct()
                .toList();
        if (known.isEmpty()) {
            return false;
        }
        journal.bringForward(outlet, known, Fate.INTRODUCED);
        return true;
    }
}
