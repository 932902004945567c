package org.holtra.core.setup.compile;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.TreeSet;
import org.holtra.core.setup.SharedConnection;
import org.holtra.core.setup.document.SetupDocument;
import org.holtra.core.setup.schema.Kind;
import org.holtra.core.text.Nearest;

/** Compiles shared connections, and finds those that inlets and outlets name. */
final class ConnectionParts {

    private static final String FIELD = "connection";

    private final Pieces pieces;
    private final Map<String, Kind> kinds;
    private final Map<String, SharedConnection> all = new LinkedHashMap<>();

    /** @param block all connections, as a setup file has them */
    ConnectionParts(Pieces pieces, Map<String, Kind> kinds, Object block) {
        this.pieces = pieces;
        this.kinds = kinds;
        Pieces.each(
                block,
                (name, fields) -> all.put(
                        name,
                        new SharedConnection(
                                name, Pieces.text(fields, "kind"), SetupDocument.block(fields.get("to")))));
    }

    Map<String, SharedConnection> all() {
        return all;
    }

    /** A kind by its name; empty if there is none. */
    Optional<Kind> kind(String name) {
        return Optional.ofNullable(kinds.get(name));
    }

    /**
     * The connection that an inlet or outlet shares; null if its kind shares none, or if it names none that is there and fits,
     * which is told of.
     *
     * @param settings its {@code at} or {@code to}
     * @param pointer of these
     */
    SharedConnection shared(String kind, Map<String, Object> settings, String pointer) {
        Optional<String> wanted = kind(kind).flatMap(Kind::sharedKind);
        String name = Pieces.text(settings, FIELD);
        if (wanted.isEmpty() || name == null) {
            return null;
        }
        SharedConnection there = all.get(name);
        if (there == null) {
            pieces.wrong(
                    pointer + "/" + FIELD,
                    "there is no connection `" + name + "`"
                            + Nearest.of(name, new TreeSet<>(all.keySet()))
                                    .map(near -> "; did you mean `" + near + "`?")
                                    .orElse("; add it under connections"));
        } else if (!wanted.get().equals(there.kind())) {
            pieces.wrong(
                    pointer + "/" + FIELD,
                    "connection `" + name + "` is of the kind " + there.kind() + ", and one of the kind " + wanted.get()
                            + " is needed here");
            return null;
        }
        return there;
    }
}
