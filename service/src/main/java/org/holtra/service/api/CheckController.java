package org.holtra.service.api;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.SharedConnection;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.intake.InletChecks;
import org.holtra.service.setups.Setups;
import org.holtra.service.sharing.SharedConnections;
import org.holtra.service.workbench.LaneSamples;
import org.springframework.stereotype.Component;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.json.JsonMapper;

/** Shows whether an inlet, an outlet or what they share would work, before it is live. */
@RestController
class CheckController {

    private static final String SHARED = "connections";

    /** @param fields of the inlet or outlet as a setup file has them; null for the active one of that name */
    record CheckRequest(Map<String, Object> fields) {}

    private final Setups setups;
    private final SetupCompiler compiler;
    private final Dispatcher dispatcher;
    private final InletChecks inlets;
    private final SharedConnections connections;
    private final LaneSamples samples;

    /** What is looked at besides inlets and outlets. */
    @Component
    record Looked(SharedConnections connections, LaneSamples samples) {}

    CheckController(Setups setups, SetupCompiler compiler, Dispatcher dispatcher, InletChecks inlets, Looked looked) {
        this.connections = looked.connections;
        this.samples = looked.samples;
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
                        : drafted("outlet", name, wanted.fields, Setup::outlets),
                samples.of(name));
    }

    /** Checks a shared connection step by step; ends with the first that fails. */
    @PostMapping("/api/v1/connections/{name}/check")
    List<CheckStep> checkConnection(@PathVariable String name, @RequestBody CheckRequest wanted) {
        return connections.check(
                wanted.fields == null
                        ? there("connection", name, setups.current().connections())
                        : drafted("connection", name, wanted.fields, Setup::connections));
    }

    private static <T> T there(String thing, String name, Map<String, T> all) {
        T one = all.get(name);
        if (one == null) {
            throw Problem.notFound(thing, name);
        }
        return one;
    }

    /** What an inlet or outlet may share, as it is written. */
    private Map<String, Object> shared() {
        return setups.current().connections().values().stream()
                .collect(Collectors.toMap(SharedConnection::name, one -> Map.of("kind", one.kind(), "to", one.to())));
    }

    private <T> T drafted(String thing, String name, Map<String, Object> fields, Function<Setup, Map<String, T>> its) {
        Map<String, Map<String, Object>> document = new LinkedHashMap<>();
        document.put(SHARED, new LinkedHashMap<>(shared()));
        document.computeIfAbsent(thing + "s", things -> new LinkedHashMap<>()).put(name, fields);
        // Every JSON document is one of YAML.
        String text = JsonMapper.shared().writeValueAsString(document);
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
