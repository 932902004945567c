package org.holtra.service.journal;

import java.util.Optional;
import java.util.stream.Stream;

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

    /** @param teller the id of the node that told it */
    record By(String teller, Told told) {}

    public boolean is(Topic wanted) {
        return topic == wanted;
    }

    static String words(String teller, Told told) {
        return teller + " " + told.topic + " " + told.name;
    }

    /** Empty if it is about nothing this node knows: one of a later version may tell of more. */
    static Optional<By> of(String words) {
        String[] parts = words.split(" ", 3);
        if (parts.length < 3) {
            return Optional.empty();
        }
        return Stream.of(Topic.values())
                .filter(topic -> topic.name().equals(parts[1]))
                .findFirst()
                .map(topic -> new By(parts[0], new Told(topic, parts[2])));
    }
}
