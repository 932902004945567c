package org.holtra.service.api;

import java.util.List;
import java.util.Map;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.setups.Setups;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.json.JsonMapper;

/** Shows whether an outlet would work, before it is live. */
@RestController
class OutletCheckController {

    /** @param fields of the outlet as a setup file has them; null for the active one of that name */
    record Wanted(Map<String, Object> fields) {}

    private final Setups setups;
    private final SetupCompiler compiler;
    private final Dispatcher dispatcher;

    OutletCheckController(Setups setups, SetupCompiler compiler, Dispatcher dispatcher) {
        this.setups = setups;
        this.compiler = compiler;
        this.dispatcher = dispatcher;
    }

    /** Looks step by step; ends with the first that fails. Nothing of a message is sent. */
    @PostMapping("/api/v1/outlets/{name}/check")
    List<CheckStep> check(@PathVariable String name, @RequestBody Wanted wanted) {
        return dispatcher.check(wanted.fields == null ? active(name) : drafted(name, wanted.fields));
    }

    private Outlet active(String name) {
        Outlet outlet = setups.current().outlets().get(name);
        if (outlet == null) {
            throw Problem.notFound("outlet", name);
        }
        return outlet;
    }

    private Outlet drafted(String name, Map<String, Object> fields) {
        // Every JSON document is one of YAML.
        String text = JsonMapper.shared().writeValueAsString(Map.of("outlets", Map.of(name, fields)));
        SetupCompiler.Result compiled = compiler.compile(text);
        if (!compiled.problems().isEmpty()) {
            throw Problem.badRequest(
                    "fields",
                    "The outlet has errors: " + compiled.problems().getFirst().where() + ": "
                            + compiled.problems().getFirst().what() + ".");
        }
        return compiled.setup().orElseThrow().outlets().get(name);
    }
}
