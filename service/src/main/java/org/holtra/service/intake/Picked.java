package org.holtra.service.intake;

import java.util.List;
import org.holtra.core.message.Message;
import org.holtra.core.picking.Picker;
import org.holtra.service.journal.entry.Remembered;
import org.holtra.service.journal.entry.StoredMessage;

/**
 * A message on its way into the journal.
 *
 * @param message as it was read; null if it was not
 * @param takes what lanes took of it
 * @param remembered by which lanes with memory
 * @param wasStopped whether its codec had to be stopped over it
 */
record Picked(
        StoredMessage stored,
        Message message,
        List<Picker.Take> takes,
        List<Remembered> remembered,
        boolean wasStopped) {

    Picked(StoredMessage stored, Message message, List<Picker.Take> takes, List<Remembered> remembered) {
        this(stored, message, takes, remembered, false);
    }

    /** Whether it waits to be read. */
    boolean isDeferred() {
        return stored.isDeferred();
    }

    /** What lanes deliver by itself; the others keep it in their memory first. */
    List<Picker.Take> deliveries() {
        return remembered.isEmpty()
                ? takes
                : takes.stream().filter(take -> take.lane().memory() == null).toList();
    }
}
