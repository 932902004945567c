package org.holtra.core.picking;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Scope;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.PointSpec;

/**
 * A message seen as what it tells of one point of its device: {@code data} are the point's own fields, by their names
 * there, and {@code device.point} is what is known of it.
 */
public final class Points {

    private Points() {}

    /** The points that a message tells something of. */
    public static List<String> told(Scope scope, Model model) {
        List<String> told = new ArrayList<>();
        if (model != null) {
            model.points().forEach((name, point) -> {
                if (point.fields().values().stream().anyMatch(field -> value(scope.data(), field) != null)) {
                    told.add(name);
                }
            });
        }
        return told;
    }

    /** @param point that the model has; for another one the message is seen as it is */
    public static Scope scope(Scope scope, Model model, String point) {
        PointSpec spec = model == null || point == null ? null : model.points().get(point);
        if (spec == null) {
            return scope;
        }
        Map<String, Object> data = LinkedHashMap.newLinkedHashMap(spec.fields().size());
        Map<String, String> units = new LinkedHashMap<>();
        spec.fields().forEach((name, field) -> {
            Object value = value(scope.data(), field);
            if (value != null) {
                data.put(name, value);
            }
            if (scope.units().containsKey(field)) {
                units.put(name, scope.units().get(field));
            }
        });
        Map<String, Object> device = new LinkedHashMap<>(scope.device());
        Map<String, Object> known = new LinkedHashMap<>();
        known.put("name", point);
        if (scope.device().get("points") instanceof Map<?, ?> points && points.get(point) instanceof Map<?, ?> one) {
            one.forEach((name, value) -> known.put(name.toString(), value));
        }
        device.put("point", known);
        return new Scope(data, scope.meta(), device, units, scope.more());
    }

    private static Object value(Object data, String field) {
        Object at = data;
        for (String name : field.split("\\.")) {
            if (!(at instanceof Map<?, ?> map)) {
                return null;
            }
            at = map.get(name);
        }
        return at;
    }
}
