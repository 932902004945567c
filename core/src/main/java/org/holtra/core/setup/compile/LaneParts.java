package org.holtra.core.setup.compile;

import java.time.Duration;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.holtra.core.delivery.RetrySchedule;
import org.holtra.core.introduction.There;
import org.holtra.core.memory.Memory;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.document.SetupDocument;
import org.holtra.core.shape.Shape;
import org.holtra.core.shape.ShapeCompiler;
import org.holtra.core.shape.ShapeField;
import org.holtra.core.text.Nearest;

/** Compiles lanes. */
public final class LaneParts {

    private final Pieces pieces;
    private final Set<String> inlets;
    private final Map<String, Destination> outlets;

    /**
     * What the shape of a lane to an outlet may say.
     *
     * @param beside the body
     * @param introduces whether it sees what a device is called there
     */
    record Destination(List<ShapeField> beside, boolean introduces) {

        static final Destination NOWHERE = new Destination(List.of(), false);
    }

    /**
     * @param inlets that there are
     * @param outlets that there are
     */
    LaneParts(Pieces pieces, Set<String> inlets, Map<String, Destination> outlets) {
        this.pieces = pieces;
        this.inlets = inlets;
        this.outlets = outlets;
    }

    /** Which messages a lane takes, or a lookout looks at. */
    Lane.Selection selection(Map<String, Object> fields, String at) {
        Set<String> from = new LinkedHashSet<>();
        if (fields.get("inlets") instanceof List<?> list) {
            for (int i = 0; i < list.size(); i++) {
                String inlet = String.valueOf(list.get(i));
                from.add(inlet);
                if (!inlet.equals(Setup.OWN_INLET)) {
                    known("inlet", inlet, inlets, at + "/inlets/" + i);
                }
            }
        }
        return new Lane.Selection(from, devices(fields, at), pieces.condition(fields, "pick", at));
    }

    Lane lane(String name, Map<String, Object> fields) {
        String at = "/lanes/" + name;
        Lane.Selection selection = selection(fields, at);
        String outlet = Pieces.text(fields, "outlet");
        if (outlet != null) {
            known("outlet", outlet, outlets.keySet(), at + "/outlet");
        }
        return new Lane(
                name,
                Pieces.closed(fields),
                selection,
                "point".equals(fields.get("per")),
                form(fields, outlet, at),
                outlet,
                new Lane.Policy(retry(SetupDocument.block(fields.get("retry"))), "device".equals(fields.get("order"))));
    }

    private Lane.Devices devices(Map<String, Object> fields, String at) {
        Map<String, Object> devices = SetupDocument.block(fields.get("devices"));
        Set<String> only = new LinkedHashSet<>();
        if (devices.get("only") instanceof List<?> keys) {
            keys.forEach(key -> only.add(String.valueOf(key)));
        }
        return new Lane.Devices(pieces.condition(devices, "where", at + "/devices"), only);
    }

    private void known(String what, String name, Set<String> names, String pointer) {
        if (!names.contains(name)) {
            String hint = Nearest.of(name, names)
                    .map(near -> "; did you mean `" + near + "`?")
                    .orElse(names.isEmpty() ? "; there are none" : "; there are " + String.join(", ", names));
            pieces.wrong(pointer, "there is no " + what + " `" + name + "`" + hint);
        }
    }

    private Lane.Form form(Map<String, Object> fields, String outlet, String at) {
        Memory memory = new MemoryParts(pieces).memory(fields.get("memory"), at + "/memory");
        if (memory != null && "point".equals(fields.get("per"))) {
            pieces.wrong(
                    at + "/memory", "a lane takes points or has a memory, not both; let its `key` tell points apart");
        }
        Object source = fields.get("shape");
        if (source == null) {
            return new Lane.Form(Shape.asRead(), Map.of(), memory);
        }
        String pointer = at + "/shape";
        Destination destination = outlets.getOrDefault(outlet, Destination.NOWHERE);
        ShapeCompiler compiler = new ShapeCompiler(
                (destination.introduces ? pieces.withVariable(There.VARIABLE) : pieces).expressions(),
                destination.beside);
        Map<String, Object> block = SetupDocument.block(source);
        // What may stand beside the body is known by the outlet; that there is none of that name is said already.
        Shape shape = compiler.compile(outlets.containsKey(outlet) ? block : ShapeCompiler.common(block));
        for (ShapeCompiler.Misfit misfit : compiler.misfits()) {
            if (misfit.problem() == null) {
                pieces.wrong(pointer + misfit.pointer(), misfit.what());
            } else {
                pieces.wrong(pointer + misfit.pointer(), misfit.problem());
            }
        }
        return new Lane.Form(shape, compiler.fields(), memory);
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
