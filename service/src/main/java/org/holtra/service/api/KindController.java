package org.holtra.service.api;

import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import org.holtra.core.setup.schema.Kind;
import org.holtra.service.dispatch.OutletKind;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** The kinds of inlets and outlets there are, and what can be said of each. */
@RestController
@RequestMapping("/api/v1/kinds")
class KindController {

    /**
     * @param inlet JSON Schema of an inlet's {@code at}; null if there are no inlets of this kind
     * @param outlet JSON Schema of an outlet's {@code to}; null if there are no outlets of this kind
     * @param connection JSON Schema of a shared connection's {@code to}; null if there are none of this kind
     * @param shares the kind of shared connection that its inlets and outlets name; null if they name none
     * @param connectionCredentials the forms of credential that its shared connections can be opened with
     * @param inletCredentials the forms of credential that its inlets can check a sender by, the usual one first
     * @param outletCredentials the forms of credential that its outlets can present, the usual one first
     * @param shape what a shape may say beside the body, for lanes to its outlets
     * @param takesApart the examples that {@code POST /api/v1/paste} makes an outlet of this kind of; empty if none
     * @param batchForms the words for how its batches may stand together, the usual one first
     */
    record KindView(
            String name,
            JsonNode inlet,
            JsonNode outlet,
            JsonNode connection,
            String shares,
            List<String> connectionCredentials,
            List<String> inletCredentials,
            List<String> outletCredentials,
            List<ShapeFieldView> shape,
            List<String> batchForms,
            String takesApart) {}

    /** @param named whether it is values by name, and not one text */
    record ShapeFieldView(String name, boolean named) {}

    private final List<KindView> kinds;

    KindController(Collection<Kind> kinds) {
        this.kinds = kinds.stream()
                .sorted(Comparator.comparing(Kind::name))
                .map(KindController::view)
                .toList();
    }

    private static KindView view(Kind kind) {
        return new KindView(
                kind.name(),
                schema(kind.inletForm()),
                schema(kind.outletForm()),
                schema(kind.connectionForm()),
                kind.sharedKind().orElse(null),
                List.copyOf(kind.connectionCredentials()),
                List.copyOf(kind.inletCredentials()),
                List.copyOf(kind.outletCredentials()),
                kind.shapeFields().stream()
                        .map(field -> new ShapeFieldView(field.name(), field.isNamed()))
                        .toList(),
                kind.batchForms(),
                kind instanceof OutletKind outlets ? outlets.takesApart() : "");
    }

    private static JsonNode schema(Optional<String> form) {
        return form.map(JsonMapper.shared()::readTree).orElse(null);
    }

    /** The kinds of inlets and outlets there are, with the JSON Schemas of what can be said of each. */
    @GetMapping
    List<KindView> list() {
        return kinds;
    }
}
