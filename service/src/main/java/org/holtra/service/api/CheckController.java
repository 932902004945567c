package org.holtra.service.api;

import java.util.List;
import java.util.Map;
import java.util.function.Function;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.intake.InletChecks;
import org.holtra.service.setups.Setups;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.json.JsonMapper;

/** Shows whether an inlet or outlet would work, before it is live. */
@RestController
class CheckController {

    /** @param fields of the inlet or outlet as a setup file has them; null for the active one of that name */
    record CheckRequest(Map<String, Object> fields) {}

    private final Setups setups;
    private final SetupCompiler compiler;
    private final Dispatcher dispatcher;
    private final InletChecks inlets;

    CheckController(Setups setups, SetupCompiler compiler, Dispatcher dispatcher, InletChecks inlets) {
        this.setups = setups;
        this.compiler = compiler;
        this.dispatcher = dispatcher;
        this.inlets = inlets;
    }

    /**
     * Checks an inlet step by step: what its kind needs, whether it is open, what became of its last message. Takes no
     * message.
     */
    @PostMapping("/api/v1/inlets/{name}/check")
    List<CheckStep> checkInlet(@PathVariable String name, @RequestBody CheckRequest wanted) {
        boolean active = wanted.fields == null;
        return inlets.check(
                active
                        ? there("inlet", name, setups.current().inlets())
                        : drafted("inlet", name, wanted.fields, Setup::inlets),
                active);
    }

    /** Checks an outlet step by step; ends with the first that fails. Nothing of a message is sent. */
    @PostMapping("/api/v1/outlets/{name}/check")
    List<CheckStep> checkOutlet(@PathVariable String name, @RequestBody CheckRequest wanted) {
        return dispatcher.check(
                wanted.fields == null
                        ? there("outlet", name, setups.current().outlets())
                        : drafted("outlet", name, wanted.fields, Setup::outlets));
    }

    private static <T> T there(String thing, String name, Map<String, T> all) {
        T one = all.get(name);
        if (one == null) {
            throw Problem.notFound(thing, name);
        }
        return one;
    }

    private <T> T drafted(String thing, String name, Map<String, Object> fields, Function<Setup, Map<String, T>> its) {
        // Every JSON document is one of YAML.
        String text = JsonMapper.shared().writeValueAsString(Map.of(thing + "s", Map.of(name, fields)));
        SetupCompiler.Result compiled = compiler.compile(text);
        if (!compiled.problems().isEmpty()) {
            throw Problem.badRequest(
                    "fields",
                    "The " + thing + " has errors: "
                            + compiled.problems().getFirst().where() + ": "
                            + compiled.problems().getFirst().what() + ".");
        }
        return its.apply(compiled.setup().orElseThrow()).get(name);
    }
}
