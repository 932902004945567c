package org.holtra.core.setup.schema;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.holtra.core.shape.ShapeField;

/** What the setup needs to know of a kind of inlet or outlet: its name, and what may be said of one. */
public interface Kind {

    String name();

    /** A JSON Schema (2020-12) of an inlet's {@code at}; empty if there are no inlets of this kind. */
    Optional<String> inletForm();

    /** A JSON Schema (2020-12) of an outlet's {@code to}; empty if there are no outlets of this kind. */
    Optional<String> outletForm();

    /** A JSON Schema (2020-12) of a shared connection's {@code to}; empty if nothing is shared over this kind. */
    default Optional<String> connectionForm() {
        return Optional.empty();
    }

    /** The kind of shared connection that its inlets and outlets name as {@code connection}; empty if they share none. */
    default Optional<String> sharedKind() {
        return Optional.empty();
    }

    /** The forms of credential that shared connections of this kind can be opened with, the usual one first. */
    default Set<String> connectionCredentials() {
        return Set.of();
    }

    /** What inlets of this kind say of how their content is read where the setup says nothing else; as in a setup file. */
    default Map<String, Object> readingUnlessSaid() {
        return Map.of();
    }

    /** Starting points for its inlets and outlets: a JSON array, as the console's start page takes it. */
    default String presets() {
        return "[]";
    }

    /** The forms of credential that inlets of this kind can check a sender by, the usual one first. */
    default Set<String> inletCredentials() {
        return Set.of();
    }

    /** The forms of credential that outlets of this kind can present, the usual one first. */
    default Set<String> outletCredentials() {
        return Set.of();
    }

    /** What the shape of a lane to outlets of this kind may say beside the body. */
    default List<ShapeField> shapeFields() {
        return List.of();
    }

    /** The words for how an outlet's batches may stand together, the usual one first; empty if there is one way only. */
    default List<String> batchForms() {
        return List.of();
    }

    /** Whether its outlets can ask for things and read the answers, as the steps of a recipe want it. */
    default boolean introduces() {
        return false;
    }

    /**
     * What is wrong with the inlets of this kind, each by itself or taken together, and cannot be said in a form.
     *
     * @param inlets by name, each as its form wants it
     */
    default List<Clash> clashes(Map<String, Map<String, Object>> inlets) {
        return List.of();
    }

    /**
     * @param inlet the one at fault
     * @param field of its {@code at}
     */
    record Clash(String inlet, String field, String what) {}
}
