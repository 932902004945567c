package org.holtra.core.setup.advice;

import java.util.Optional;
import java.util.Set;

/** What was really seen of fields. */
public interface FieldKnowledge {

    /** The least and the most a field ever was, and how often it was seen. */
    record Range(double min, double max, long count) {}

    /**
     * @param inlets whose messages
     * @param field of the data, names inside others joined with dots
     */
    Optional<Range> range(Set<String> inlets, String field);

    /** The names of all fields seen in their messages. */
    Set<String> names(Set<String> inlets);
}
