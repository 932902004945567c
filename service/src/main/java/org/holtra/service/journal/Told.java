package org.holtra.service.journal;

/**
 * Another node changed something that nodes keep in memory.
 *
 * @param name of what was changed; empty if it may be anything, since this node did not hear for a while
 */
public record Told(Topic topic, String name) {

    public enum Topic {
        SETUP,
        CREDENTIAL,
        DEVICE,
        OUTLET
    }

    public boolean is(Topic wanted) {
        return topic == wanted;
    }
}
