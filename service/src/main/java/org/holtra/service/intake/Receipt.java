package org.holtra.service.intake;

import org.holtra.core.message.MessageId;

/**
 * What a sender may be told once its arrival is taken.
 *
 * @param ignored whether it was counted only, as its inlet asks for; else it is kept under this id
 */
public record Receipt(MessageId id, boolean ignored) {

    static Receipt kept(MessageId id) {
        return new Receipt(id, false);
    }
}
