package org.holtra.core.setup;

import java.util.Optional;
import java.util.Set;

/** What was really seen of fields. */
@FunctionalInterface
public interface FieldKnowledge {

    /** The least and the most a field ever was, and how often it was seen. */
    record Range(double least, double most, long count) {}

    /**
     * @param inlets whose messages
     * @param field of the data, names inside others joined with dots
     */
    Optional<Range> range(Set<String> inlets, String field);
}
