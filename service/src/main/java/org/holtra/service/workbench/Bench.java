package org.holtra.service.workbench;

import java.util.Map;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/** Compiles the lane a person works on, as it would be in the active setup. */
@Component
class Bench {

    private final Setups setups;
    private final SetupCompiler compiler;

    Bench(Setups setups, SetupCompiler compiler) {
        this.setups = setups;
        this.compiler = compiler;
    }

    Setup setup() {
        return setups.current();
    }

    /** @param fields of the lane; null for the active one of that name */
    SetupCompiler.LaneResult lane(String name, Map<String, Object> fields) {
        if (fields != null) {
            return compiler.lane(setups.current(), name, fields);
        }
        Lane live = setups.current().lanes().get(name);
        if (live == null) {
            throw new IllegalArgumentException("There is no lane `" + name + "`, and none was given.");
        }
        return new SetupCompiler.LaneResult(java.util.List.of(), java.util.Optional.of(live));
    }

    /** The same, going by what it picks alone: its outlet may be missing still. */
    SetupCompiler.LaneResult picking(String name, Map<String, Object> fields) {
        return fields == null ? lane(name, null) : compiler.picking(setups.current(), name, fields);
    }

    SetupCompiler compiler() {
        return compiler;
    }
}
