package org.holtra.service.dispatch;

import java.util.List;
import java.util.Optional;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.schema.Kind;
import org.holtra.core.shape.Content;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.credentials.Credential;

/** A kind of outlet. */
public interface OutletKind extends Kind {

    /** Where an outlet sends, as people are told it. */
    String address(Outlet outlet);

    /**
     * Looks step by step whether an outlet would work. Sends nothing of a message.
     *
     * @param credential what the outlet presents, or null
     */
    List<CheckStep> check(Outlet outlet, Credential credential);

    /**
     * The same, looking at what it would be sent besides.
     *
     * @param samples what lanes would send it now, one of each
     */
    default List<CheckStep> check(Outlet outlet, Credential credential, List<Content> samples) {
        return check(outlet, credential);
    }

    /** Whether its destinations know values by names of their own, which {@link #tags} gives. */
    default boolean knowsTags() {
        return false;
    }

    /** The values that a content would write; none if it cannot be written. */
    default List<Tag> tags(Outlet outlet, Content content) {
        return List.of();
    }

    /** The examples of a destination's documentation that {@link #proposal} takes apart, in a phrase; empty if none. */
    default String takesApart() {
        return "";
    }

    /**
     * An outlet made of an example that a person pasted.
     *
     * @return empty if it is nothing this kind knows
     * @throws IllegalArgumentException if it is, and cannot be taken apart; with a sentence for people
     */
    default Optional<OutletProposal> proposal(String pasted) {
        return Optional.empty();
    }

    /**
     * Readies the way to a destination. Nothing is sent.
     *
     * @param credential what the outlet presents, or null
     */
    Sink open(Outlet outlet, Credential credential);
}
