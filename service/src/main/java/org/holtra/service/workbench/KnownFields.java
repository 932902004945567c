package org.holtra.service.workbench;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.setup.Model;
import org.holtra.service.devices.FieldDescription;
import org.holtra.service.devices.FieldDescriptions;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/** The fields really seen in the last messages of inlets, for completing what a person types and for mapping. */
@Component
class KnownFields {

    /**
     * @param path as an expression writes it, such as {@code data.wind.gust}
     * @param kind {@code number}, {@code text}, {@code bool}, {@code time}, {@code list} or {@code object}
     * @param unit as a UCUM code, or as its sender writes it; null if nobody says
     * @param described what its sender says of it; null if it says nothing
     * @param label for people, or null
     * @param last its newest value
     * @param seen in how many messages, of {@code of}
     */
    record Field(
            String path,
            String kind,
            String unit,
            String label,
            FieldDescription described,
            Object last,
            long seen,
            long of) {}

    private static final int DEEPEST = 6;
    private static final String DATA = "data.";

    private final Sample sample;
    private final Setups setups;
    private final FieldDescriptions descriptions;

    KnownFields(Sample sample, Setups setups, FieldDescriptions descriptions) {
        this.descriptions = descriptions;
        this.sample = sample;
        this.setups = setups;
    }

    /** @param perPoint whether they are seen point by point */
    List<Field> of(Set<String> inlets, boolean perPoint) {
        List<Sample.Seen> seen = sample.of(inlets);
        Map<String, Count> counts = new LinkedHashMap<>();
        for (Sample.Seen one : seen) {
            for (Scope view : one.views(perPoint)) {
                collect("data", view.data(), view, counts, 0);
                collect("device", view.device(), view, counts, 0);
                collect("meta", view.meta(), view, counts, 0);
            }
        }
        List<Field> fields = new ArrayList<>();
        counts.forEach((path, count) -> {
            FieldDescription described = described(inlets, path);
            fields.add(new Field(
                    path,
                    kind(count.last),
                    count.unit != null || described == null ? count.unit : described.unit(),
                    label(path),
                    described,
                    Plain.of(count.last),
                    count.seen,
                    seen.size()));
        });
        return fields;
    }

    private FieldDescription described(Set<String> inlets, String path) {
        if (!path.startsWith(DATA)) {
            return null;
        }
        String name = path.substring(DATA.length());
        return inlets.stream()
                .flatMap(inlet -> descriptions.of(inlet, name).stream())
                .findFirst()
                .orElse(null);
    }

    private static final class Count {
        private Object last;
        private String unit;
        private long seen;
    }

    private static void collect(String path, Object value, Scope from, Map<String, Count> counts, int depth) {
        if (value instanceof Map<?, ?> map && depth < DEEPEST) {
            map.forEach((name, inner) -> collect(step(path, name.toString()), inner, from, counts, depth + 1));
            return;
        }
        Count count = counts.computeIfAbsent(path, key -> new Count());
        if (count.seen++ == 0) {
            count.last = value;
            count.unit = path.startsWith(DATA) ? from.units().get(path.substring(DATA.length())) : null;
        }
    }

    private static String step(String path, String name) {
        return name.matches("[A-Za-z_][A-Za-z0-9_]*")
                ? path + "." + name
                : path + "['" + name.replace("'", "\\'") + "']";
    }

    private String label(String path) {
        if (!path.startsWith(DATA)) {
            return null;
        }
        String name = path.substring(DATA.length());
        return setups.current().models().values().stream()
                .map(Model::fields)
                .flatMap(fields -> Optional.ofNullable(fields.get(name)).stream())
                .map(spec -> spec.label())
                .filter(label -> label != null)
                .findFirst()
                .orElse(null);
    }

    private static String kind(Object value) {
        return switch (value) {
            case Number ignored -> "number";
            case Boolean ignored -> "bool";
            case java.time.Instant ignored -> "time";
            case List<?> ignored -> "list";
            case Map<?, ?> ignored -> "object";
            case null, default -> "text";
        };
    }
}
