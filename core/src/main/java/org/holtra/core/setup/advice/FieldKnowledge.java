package org.holtra.core.setup.advice;

import java.util.Optional;
import java.util.Set;

/** What was really seen of fields, and which devices are known. */
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

    /** The models of the devices that sent them. */
    Set<String> models(Set<String> inlets);

    /** The keys of the devices there are. */
    Set<String> devices();

    /** The names of all facts that are known of any of them. */
    Set<String> facts();
}
