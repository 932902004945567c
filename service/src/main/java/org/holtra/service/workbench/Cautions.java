package org.holtra.service.workbench;

import com.networknt.schema.Error;
import com.networknt.schema.SchemaRegistry;
import com.networknt.schema.SpecificationVersion;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.core.expression.Scope;
import org.holtra.core.reading.Fields;
import org.holtra.core.setup.FieldSpec;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.advice.SetupAdvice;
import org.holtra.core.shape.Content;
import org.holtra.service.devices.FieldsSeen;
import org.holtra.service.dispatch.Dispatcher;
import org.springframework.stereotype.Component;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** What speaks against a lane that works, for the message it is tried on. */
@Component
class Cautions {

    private static final JsonMapper JSON = JsonMapper.shared();

    private final Bench bench;
    private final Presets presets;
    private final Dispatcher dispatcher;
    private final FieldsSeen fields;

    Cautions(Bench bench, Presets presets, Dispatcher dispatcher, FieldsSeen fields) {
        this.bench = bench;
        this.presets = presets;
        this.dispatcher = dispatcher;
        this.fields = fields;
    }

    /** @param model of the message's device, or null */
    List<String> about(Lane lane, Scope scope, Model model) {
        List<String> cautions = new ArrayList<>(SetupAdvice.of(lane, bench.setup(), fields));
        if (model != null) {
            Map<String, Object> flat = Fields.flat(scope.data());
            model.fields().forEach((name, spec) -> {
                if (flat.get(name) instanceof Number number) {
                    outOfRange(name, number.doubleValue(), spec).ifPresent(cautions::add);
                }
            });
        }
        OutletHealth health = Optional.ofNullable(dispatcher.states().get(lane.outlet()))
                .map(Dispatcher.OutletState::health)
                .orElse(null);
        if (health != null && !health.flows()) {
            cautions.add("outlet " + lane.outlet() + " is "
                    + health.state().name().toLowerCase(Locale.ROOT) + ": " + health.reason());
        }
        return cautions;
    }

    private static Optional<String> outOfRange(String name, double value, FieldSpec spec) {
        boolean low = spec.min() != null && value < spec.min();
        boolean high = spec.max() != null && value > spec.max();
        if (!low && !high) {
            return Optional.empty();
        }
        String unit = spec.unit() == null ? "" : " " + spec.unit();
        return Optional.of("data." + name + " is " + value + unit + ", "
                + (low ? "below the " + spec.min() : "above the " + spec.max()) + unit
                + " that its model believes");
    }

    /** Whether the outlet's preset knows that its destination refuses such a body. */
    List<String> about(Lane lane, Content content) {
        Outlet outlet = bench.setup().outlets().get(lane.outlet());
        JsonNode schema = outlet == null || outlet.preset() == null
                ? null
                : presets.find(outlet.preset()).map(Presets.Preset::accepts).orElse(null);
        if (schema == null) {
            return List.of();
        }
        JsonNode body;
        try {
            body = JSON.readTree(content.body());
        } catch (JacksonException e) {
            return List.of("the destination takes JSON, and the body is none");
        }
        List<String> cautions = new ArrayList<>();
        for (Error error : SchemaRegistry.withDefaultDialect(SpecificationVersion.DRAFT_2020_12)
                .getSchema(schema)
                .validate(body)) {
            cautions.add("the destination would refuse body"
                    + error.getInstanceLocation().toString().replace('/', '.') + ": " + error.getMessage());
        }
        return cautions;
    }
}
