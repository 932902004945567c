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
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/** The fields really seen in the last messages of inlets, for completing what a person types and for mapping. */
@Component
class KnownFields {

    /**
     * @param path as an expression writes it, such as {@code data.wind.gust}
     * @param kind {@code number}, {@code text}, {@code bool}, {@code time}, {@code list} or {@code object}
     * @param unit as a UCUM code, or null
     * @param label for people, or null
     * @param last its newest value
     * @param seen in how many messages, of {@code of}
     */
    record Field(String path, String kind, String unit, String label, Object last, long seen, long of) {}

    private static final int DEEPEST = 6;

    private final Sample sample;
    private final Setups setups;

    KnownFields(Sample sample, Setups setups) {
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
        counts.forEach((path, count) -> fields.add(new Field(
                path, kind(count.last), count.unit, label(path), Plain.of(count.last), count.seen, seen.size())));
        return fields;
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
            count.unit = path.startsWith("data.") ? from.units().get(path.substring("data.".length())) : null;
        }
    }

    private static String step(String path, String name) {
        return name.matches("[A-Za-z_][A-Za-z0-9_]*")
                ? path + "." + name
                : path + "['" + name.replace("'", "\\'") + "']";
    }

    private String label(String path) {
        if (!path.startsWith("data.")) {
            return null;
        }
        String name = path.substring("data.".length());
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
