package org.holtra.core.setup;

import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.holtra.core.delivery.RetrySchedule;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.shape.Shape;
import org.holtra.core.shape.ShapeCompiler;

/** Compiles the parts of one setup file, and what hangs together between them. */
final class Parts {

    private final Pieces pieces;
    private final ModelParts models;
    private final InletParts inlets;

    Parts(SetupDocument document, ExpressionCompiler expressions) {
        pieces = new Pieces(document, expressions);
        models = new ModelParts(pieces);
        inlets = new InletParts(pieces, models);
    }

    List<SetupProblem> problems() {
        return pieces.problems();
    }

    Setup compile(Map<?, ?> root) {
        Map<String, Model> known = new LinkedHashMap<>();
        Pieces.each(root.get("models"), (name, fields) -> known.put(name, models.model(name, fields)));
        Map<String, Inlet> in = new LinkedHashMap<>();
        Pieces.each(root.get("inlets"), (name, fields) -> in.put(name, inlets.inlet(name, fields)));
        Map<String, Outlet> out = new LinkedHashMap<>();
        Pieces.each(
                root.get("outlets"),
                (name, fields) ->
                        out.put(name, new Outlet(name, Pieces.text(fields, "kind"), Pieces.block(fields.get("to")))));
        Map<String, Lane> lanes = new LinkedHashMap<>();
        Pieces.each(
                root.get("lanes"), (name, fields) -> lanes.put(name, lane(name, fields, in.keySet(), out.keySet())));
        return new Setup(0, known, in, out, lanes);
    }

    private Lane lane(String name, Map<String, Object> fields, Set<String> inlets, Set<String> outlets) {
        String at = "/lanes/" + name;
        Set<String> from = new LinkedHashSet<>();
        if (fields.get("inlets") instanceof List<?> list) {
            for (int i = 0; i < list.size(); i++) {
                String inlet = String.valueOf(list.get(i));
                from.add(inlet);
                known("inlet", inlet, inlets, at + "/inlets/" + i);
            }
        }
        String outlet = Pieces.text(fields, "outlet");
        if (outlet != null) {
            known("outlet", outlet, outlets, at + "/outlet");
        }
        return new Lane(
                name,
                from,
                pieces.condition(fields, "pick", at),
                shape(Pieces.block(fields.get("shape")), at + "/shape"),
                outlet,
                retry(Pieces.block(fields.get("retry"))));
    }

    private void known(String what, String name, Set<String> names, String pointer) {
        if (!names.contains(name)) {
            String hint = Nearest.of(name, names)
                    .map(near -> "; did you mean `" + near + "`?")
                    .orElse(names.isEmpty() ? "; there are none" : "; there are " + String.join(", ", names));
            pieces.wrong(pointer, "there is no " + what + " `" + name + "`" + hint);
        }
    }

    private Shape shape(Map<String, Object> fields, String pointer) {
        ShapeCompiler compiler = new ShapeCompiler(pieces.expressions());
        Shape shape = compiler.compile(fields);
        compiler.misfits().forEach(misfit -> pieces.wrong(pointer + misfit.pointer(), misfit.problem()));
        return shape;
    }

    private static RetrySchedule retry(Map<String, Object> fields) {
        RetrySchedule usual = RetrySchedule.USUAL;
        Double factor = Pieces.number(fields, "factor");
        Duration first = Pieces.span(fields, "first", usual.first());
        return new RetrySchedule(
                first,
                factor == null ? usual.factor() : factor,
                Pieces.span(fields, "longest", usual.longest()),
                Pieces.span(fields, "giveUpAfter", usual.giveUpAfter()));
    }
}
