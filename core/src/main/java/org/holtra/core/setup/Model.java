package org.holtra.core.setup;

import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Expression;
import org.holtra.core.reading.codec.Codec;

/**
 * What devices of one model have in common, compiled.
 *
 * @param codec null where their data come readable
 * @param fields by name; names of fields inside others are joined with dots
 * @param shows where a message tells certain things: {@code battery}, {@code firmware}, {@code link}, {@code latitude},
 *     {@code longitude}
 * @param facts what is known of such devices as long as nothing else is said of one
 * @param silentAfter null to learn it from each device's own rhythm
 * @param channels of what is made fields; these are among {@code fields} and {@code points}
 */
public record Model(
        String name,
        Codec codec,
        Map<String, FieldSpec> fields,
        Map<String, PointSpec> points,
        Map<String, Expression> shows,
        Map<String, Object> facts,
        Duration silentAfter,
        List<Channel> channels) {

    private static final Model NONE = new Model(null, null, Map.of(), Map.of(), Map.of(), Map.of(), null, List.of());

    /**
     * The model as it is for a device with channels of its own, which stand in place of the model's.
     *
     * @param model null if the device has none
     */
    public static Model wired(Model model, List<Channel> own) {
        return own.isEmpty() ? model : (model == null ? NONE : model).with(own);
    }

    /** The same with these channels in place of those it has. */
    public Model with(List<Channel> wanted) {
        Map<String, FieldSpec> described = new LinkedHashMap<>(fields);
        Map<String, PointSpec> measured = new LinkedHashMap<>(points);
        for (Channel channel : channels) {
            described.remove(channel.name());
            measured.computeIfPresent(channel.point(), (name, point) -> {
                PointSpec rest = point.without(channel.field());
                return rest.isEmpty() ? null : rest;
            });
        }
        for (Channel channel : wanted) {
            described.put(channel.name(), channel.spec());
            if (channel.point() != null) {
                measured.merge(
                        channel.point(),
                        new PointSpec(Map.of(channel.field(), channel.name()), Map.of()),
                        (there, more) -> there.and(channel.field(), channel.name()));
            }
        }
        return new Model(name, codec, described, measured, shows, facts, silentAfter, List.copyOf(wanted));
    }

    /** As the expressions of a recipe see it: its name, its fields and its points, these two as lists. */
    public Map<String, Object> seen() {
        Map<String, Object> seen = new LinkedHashMap<>();
        if (name != null) {
            seen.put("name", name);
        }
        seen.put(
                "fields",
                fields.entrySet().stream()
                        .map(field -> field.getValue().seen(field.getKey()))
                        .toList());
        seen.put(
                "points",
                points.entrySet().stream()
                        .map(point -> Map.of(
                                "name",
                                point.getKey(),
                                "fields",
                                List.copyOf(point.getValue().fields().keySet())))
                        .toList());
        return seen;
    }

    /** The units of its fields, by name, where they have one. */
    public Map<String, String> units() {
        Map<String, String> units = new LinkedHashMap<>();
        fields.forEach((name, field) -> {
            if (field.unit() != null) {
                units.put(name, field.unit());
            }
        });
        return units;
    }
}
