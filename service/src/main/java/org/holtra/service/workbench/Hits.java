package org.holtra.service.workbench;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.FieldPath;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.picking.Picker;
import org.holtra.core.setup.Lane;
import org.springframework.stereotype.Component;

/** How often a lane would have taken one of the last messages, and what its condition's fields were in them. */
@Component
class Hits {

    /**
     * @param looked how many messages were looked at
     * @param taken how many the lane would have taken
     * @param since when the oldest of them came; null if there are none
     * @param missing how many lack a field the condition reads
     * @param example the newest message it would have taken, or null
     * @param counter the newest it would not have, or null
     */
    record Result(
            long looked,
            long taken,
            Instant since,
            long missing,
            String example,
            String counter,
            List<FieldRange> fields) {}

    /**
     * What a field was.
     *
     * @param min and {@code max}: of numbers, else null
     * @param last as it was in the newest message that has it; null if none has
     * @param values how often it had each value, where there are few of them that are no numbers; else null
     */
    record FieldRange(
            String field, String unit, long seen, Double min, Double max, Object last, Map<String, Long> values) {}

    private static final int FEW = 8;

    private final Sample sample;

    Hits(Sample sample) {
        this.sample = sample;
    }

    Result of(Lane lane) {
        List<Sample.Seen> seen = sample.of(lane.inlets());
        List<Count> counts = new ArrayList<>();
        if (lane.pick() != null) {
            lane.pick().fields().forEach(field -> counts.add(new Count(field)));
        }
        if (lane.selection().devices().where() != null) {
            lane.selection().devices().where().fields().forEach(field -> counts.add(new Count(field)));
        }
        long taken = 0;
        long missing = 0;
        String example = null;
        String counter = null;
        Instant since = null;
        for (Sample.Seen one : seen) {
            boolean takes = !Picker.takes(lane, one.scope(), one.model()).isEmpty();
            taken += takes ? 1 : 0;
            example = example == null && takes ? one.message().id().toString() : example;
            counter = counter == null && !takes ? one.message().id().toString() : counter;
            Instant came = one.message().id().received();
            since = since == null || came.isBefore(since) ? came : since;
            boolean lacks = false;
            for (Scope view : one.views(lane.perPoint())) {
                for (Count count : counts) {
                    lacks |= !count.add(view);
                }
            }
            missing += lacks ? 1 : 0;
        }
        return new Result(
                seen.size(),
                taken,
                since,
                missing,
                example,
                counter,
                counts.stream().map(Count::range).toList());
    }

    /** Counts one field. The messages come newest first. */
    private static final class Count {
        private final FieldPath field;
        private final Map<String, Long> values = new LinkedHashMap<>();
        private long seen;
        private double min = Double.POSITIVE_INFINITY;
        private double max = Double.NEGATIVE_INFINITY;
        private Object last;
        private String unit;

        private Count(FieldPath field) {
            this.field = field;
        }

        /** False if it is not there. */
        private boolean add(Scope scope) {
            Object value = field.value(scope).orElse(null);
            if (value == null) {
                return false;
            }
            seen++;
            if (last == null) {
                last = Plain.of(value);
                unit = scope.unit(field).strip();
            }
            if (value instanceof Number number) {
                min = Math.min(min, number.doubleValue());
                max = Math.max(max, number.doubleValue());
            } else if (values.size() <= FEW) {
                values.merge(Plain.brief(value), 1L, Long::sum);
            }
            return true;
        }

        private FieldRange range() {
            boolean numbers = min <= max;
            return new FieldRange(
                    field.toString(),
                    unit == null || unit.isEmpty() ? null : unit,
                    seen,
                    numbers ? min : null,
                    numbers ? max : null,
                    last,
                    !numbers && values.size() <= FEW ? values : null);
        }
    }
}
