package org.holtra.service.api;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.SharedConnection;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.core.text.Nearest;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** Parts of a setup as they are, or as somebody wants them to be and has not applied. */
@Component
class OutletDrafts {

    private static final String SHARED = "connections";

    private final Setups setups;
    private final SetupCompiler compiler;

    OutletDrafts(Setups setups, SetupCompiler compiler) {
        this.setups = setups;
        this.compiler = compiler;
    }

    /** @param fields as a setup file has them; null for the active one of that name */
    <T> T of(String thing, String name, Map<String, Object> fields, Function<Setup, Map<String, T>> its) {
        return fields == null ? there(thing, name, its.apply(setups.current())) : drafted(thing, name, fields, its);
    }

    /** @throws Problem if there is no such model; null is none */
    void checkModel(String name) {
        if (name != null && !setups.current().models().containsKey(name)) {
            throw Problem.badRequest(
                    "model",
                    "There is no model `" + name + "`"
                            + Nearest.of(name, setups.current().models().keySet())
                                    .map(near -> "; did you mean `" + near + "`?")
                                    .orElse("."));
        }
    }

    boolean hasRecipe(String outlet) {
        return Optional.ofNullable(setups.current().outlets().get(outlet))
                .map(Outlet::recipe)
                .isPresent();
    }

    /** @throws Problem if the outlet has no recipe */
    Outlet withRecipe(String name, Map<String, Object> fields) {
        Outlet outlet = of("outlet", name, fields, Setup::outlets);
        if (outlet.recipe() == null) {
            throw Problem.badRequest(
                    "name",
                    "Outlet " + name
                            + " has no recipe: say in its settings, under introduction, how devices are made known"
                            + " there.");
        }
        return outlet;
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
