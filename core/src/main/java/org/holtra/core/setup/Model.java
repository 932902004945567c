package org.holtra.core.setup;

import java.time.Duration;
import java.util.LinkedHashMap;
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
 */
public record Model(
        String name,
        Codec codec,
        Map<String, FieldSpec> fields,
        Map<String, PointSpec> points,
        Map<String, Expression> shows,
        Map<String, Object> facts,
        Duration silentAfter) {

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
