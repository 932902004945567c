package org.holtra.core.setup.compile;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.expression.LookupTable;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Lookout;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.document.SetupDocument;
import org.holtra.core.setup.document.SetupProblem;
import org.holtra.core.setup.schema.Kind;

/** Compiles the parts of one setup file, and what hangs together between them. */
public final class Parts {

    private final SetupDocument document;
    private final ExpressionCompiler expressions;
    private final Map<String, Kind> kinds;
    private Pieces pieces;

    Parts(SetupDocument document, ExpressionCompiler expressions, Map<String, Kind> kinds) {
        this.document = document;
        this.expressions = expressions;
        this.kinds = kinds;
        this.pieces = new Pieces(document, expressions);
    }

    List<SetupProblem> problems() {
        return pieces.problems();
    }

    Setup compile(Map<?, ?> root) {
        Map<String, LookupTable> tables = new LinkedHashMap<>();
        Pieces.each(root.get("lookups"), (name, fields) -> tables.put(name, table(name, fields)));
        pieces = new Pieces(document, expressions.withTables(tables).forOneSetup());
        ModelParts models = new ModelParts(pieces);
        ConnectionParts connections = new ConnectionParts(pieces, kinds, root.get("connections"));
        InletParts inlets = new InletParts(pieces, models, connections);
        Map<String, Model> known = new LinkedHashMap<>();
        Pieces.each(root.get("models"), (name, fields) -> known.put(name, models.model(name, fields)));
        Map<String, Inlet> in = new LinkedHashMap<>();
        Pieces.each(root.get("inlets"), (name, fields) -> in.put(name, inlets.inlet(name, fields)));
        if (in.containsKey(Setup.OWN_INLET)) {
            pieces.wrong(
                    "/inlets/" + Setup.OWN_INLET,
                    "the inlet `" + Setup.OWN_INLET
                            + "` is the one of Holtra's own messages; give this one another name");
        }
        Map<String, Outlet> out = new LinkedHashMap<>();
        OutletParts outlets = new OutletParts(pieces, connections, kinds);
        Pieces.each(root.get("outlets"), (name, fields) -> out.put(name, outlets.outlet(name, fields)));
        Map<String, Lane> lanes = new LinkedHashMap<>();
        LaneParts laneParts = new LaneParts(pieces, in.keySet(), destinations(out, kinds));
        Pieces.each(root.get("lanes"), (name, fields) -> lanes.put(name, laneParts.lane(name, fields)));
        Map<String, Lookout> lookouts = new LinkedHashMap<>();
        LookoutParts lookoutParts = new LookoutParts(pieces, laneParts);
        Pieces.each(root.get("lookouts"), (name, fields) -> lookouts.put(name, lookoutParts.lookout(name, fields)));
        return new Setup(0, new Setup.Things(known, tables, connections.all(), inlets.own(), lookouts), in, out, lanes);
    }

    /** What the shapes of lanes may say, by the name of the outlet. */
    static Map<String, LaneParts.Destination> destinations(Map<String, Outlet> outlets, Map<String, Kind> kinds) {
        Map<String, LaneParts.Destination> all = new LinkedHashMap<>();
        outlets.forEach((name, outlet) -> {
            Kind kind = kinds.get(outlet.kind());
            all.put(
                    name,
                    new LaneParts.Destination(kind == null ? List.of() : kind.shapeFields(), outlet.recipe() != null));
        });
        return all;
    }

    private static LookupTable table(String name, Map<String, Object> fields) {
        return new LookupTable(name, Map.copyOf(Pieces.filled(fields.get("rows"))), fields.get("default"));
    }
}
