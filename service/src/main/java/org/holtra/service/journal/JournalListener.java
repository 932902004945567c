package org.holtra.service.journal;

import org.holtra.service.journal.entry.StoredMessage;

/** Is told of what has been committed. Called on the committing thread: must be quick. Should it throw, that is logged. */
public interface JournalListener {

    default void kept(StoredMessage message) {}

    default void settled(Settlement settlement) {}
}
