package org.holtra.core.setup.compile;

import java.time.Duration;
import java.time.ZoneOffset;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.holtra.core.memory.Changed;
import org.holtra.core.memory.Choice;
import org.holtra.core.memory.Downsample;
import org.holtra.core.memory.Increase;
import org.holtra.core.memory.Intervals;
import org.holtra.core.memory.Join;
import org.holtra.core.memory.Memory;
import org.holtra.core.memory.Operation;
import org.holtra.core.memory.Split;
import org.holtra.core.setup.document.SetupDocument;

/** Compiles what lanes remember. */
public final class MemoryParts {

    private static final List<String> OPERATIONS = List.of("downsample", "changed", "join", "increase", "split");

    private final Pieces pieces;

    MemoryParts(Pieces pieces) {
        this.pieces = pieces;
    }

    /** Null if the lane remembers nothing. */
    Memory memory(Object block, String pointer) {
        if (!(block instanceof Map<?, ?>)) {
            return null;
        }
        Map<String, Object> fields = SetupDocument.block(block);
        List<String> said = OPERATIONS.stream().filter(fields::containsKey).toList();
        if (said.size() != 1) {
            pieces.wrong(
                    pointer,
                    "a lane with memory does one of " + String.join(", ", OPERATIONS)
                            + (said.isEmpty() ? "; say which" : ", and not both " + String.join(" and ", said)));
            return null;
        }
        String at = pointer + "/" + said.getFirst();
        Map<String, Object> its = SetupDocument.block(fields.get(said.getFirst()));
        if (said.getFirst().equals("split")) {
            return new Memory(null, null, Duration.ZERO, true, null, split(its, at));
        }
        Operation<?> operation = switch (said.getFirst()) {
            case "downsample" -> downsample(its, at);
            case "changed" -> changed(its, at);
            case "join" -> join(its, at);
            default -> increase(its, at);
        };
        return operation == null
                ? null
                : new Memory(
                        pieces.expression(fields, "key", pointer),
                        pieces.expression(fields, "zone", pointer),
                        Pieces.span(fields, "lateness", Duration.ZERO),
                        !"hold".equals(Pieces.text(fields, "late")),
                        operation,
                        null);
    }

    private Split split(Map<String, Object> fields, String at) {
        return new Split(
                pieces.expression(fields, "each", at),
                pieces.withVariable(Split.ITEM).expression(fields, "time", at));
    }

    private Downsample downsample(Map<String, Object> fields, String at) {
        Duration every = Pieces.span(fields, "every", null);
        if (every == null) {
            return null; // the schema has told of it
        }
        boolean byClock = !"first".equals(Pieces.text(fields, "begins"));
        if (byClock && every.compareTo(Duration.ofDays(1)) > 0) {
            pieces.wrong(
                    at + "/every", "intervals by the clock are a day long at most; `begins: first` takes longer ones");
        }
        Map<String, Choice> choices = new LinkedHashMap<>();
        SetupDocument.block(fields.get("fields"))
                .forEach(
                        (name, word) -> Choice.of(String.valueOf(word)).ifPresent(choice -> choices.put(name, choice)));
        String rest = Pieces.text(fields, "others");
        return new Downsample(
                byClock ? new Intervals.Of(every) : null,
                every,
                ZoneOffset.UTC,
                choices,
                "none".equals(rest)
                        ? null
                        : Choice.of(rest == null ? "last" : rest).orElse(Choice.LAST));
    }

    private Changed changed(Map<String, Object> fields, String at) {
        Map<String, Changed.Band> bands = new LinkedHashMap<>();
        SetupDocument.block(fields.get("by")).forEach((name, amount) -> {
            if (amount instanceof Number number) {
                bands.put(name, new Changed.Band(number.doubleValue(), false));
            } else if (amount instanceof String text && text.matches("[0-9]+(\\.[0-9]+)? ?%")) {
                bands.put(name, new Changed.Band(Double.parseDouble(text.replaceAll("[ %]", "")), true));
            }
        });
        Map<String, Double> crossings = new LinkedHashMap<>();
        SetupDocument.block(fields.get("crosses")).forEach((name, bound) -> {
            if (bound instanceof Number number) {
                crossings.put(name, number.doubleValue());
            }
        });
        if (bands.isEmpty() && crossings.isEmpty()) {
            pieces.wrong(at, "say by how much a field must move (`by`), or what it must cross (`crosses`)");
        }
        return new Changed(bands, crossings, Pieces.span(fields, "longest", null));
    }

    private Join join(Map<String, Object> fields, String at) {
        Set<String> expected = new LinkedHashSet<>();
        if (fields.get("fields") instanceof List<?> names) {
            names.forEach(name -> expected.add(String.valueOf(name)));
        }
        Double count = Pieces.number(fields, "count");
        if (expected.isEmpty() && count == null) {
            pieces.wrong(at, "say which `fields` make a message whole, or how many messages (`count`)");
        }
        return new Join(
                expected,
                count == null ? null : (Integer) count.intValue(),
                Pieces.span(fields, "within", Duration.ofMinutes(1)),
                Join.Incomplete.of(Pieces.text(fields, "incomplete")).orElse(Join.Incomplete.GO),
                Join.Differing.of(Pieces.text(fields, "differing"))
                        .orElse(expected.isEmpty() ? Join.Differing.LIST : Join.Differing.NEXT));
    }

    private Increase increase(Map<String, Object> fields, String at) {
        Map<String, String> counters = new LinkedHashMap<>();
        SetupDocument.block(fields.get("of")).forEach((counter, name) -> counters.put(counter, String.valueOf(name)));
        if (counters.isEmpty()) {
            pieces.wrong(at, "say which fields count, and what their increase is called: `of: {rainTotal: rain}`");
        }
        Intervals intervals = switch (String.valueOf(Pieces.text(fields, "per"))) {
            case "hour" -> new Intervals.Hours();
            case "day" -> new Intervals.Days();
            case "month" -> new Intervals.Months();
            default -> null;
        };
        return new Increase(
                counters,
                intervals,
                ZoneOffset.UTC,
                Pieces.number(fields, "rollsAt"),
                Pieces.span(fields, "gapAfter", null),
                "spread".equals(Pieces.text(fields, "gap")));
    }
}
