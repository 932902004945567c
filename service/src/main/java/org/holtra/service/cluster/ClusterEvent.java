package org.holtra.service.cluster;

import java.util.Optional;
import java.util.stream.Stream;

/**
 * Another node changed something that nodes keep in memory.
 *
 * @param name of what was changed; empty if it may be anything, since this node did not hear for a while
 */
public record ClusterEvent(Topic topic, String name) {

    public enum Topic {
        SETUP,
        CREDENTIAL,
        DEVICE,
        OUTLET,
        INTRODUCTION
    }

    /** @param sender the id of the node that sent it */
    record By(String sender, ClusterEvent event) {}

    public boolean is(Topic wanted) {
        return topic == wanted;
    }

    static String words(String sender, ClusterEvent event) {
        return sender + " " + event.topic + " " + event.name;
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
                .map(topic -> new By(parts[0], new ClusterEvent(topic, parts[2])));
    }
}
