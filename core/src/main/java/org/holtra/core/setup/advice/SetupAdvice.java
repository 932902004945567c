package org.holtra.core.setup.advice;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.holtra.core.expression.Comparison;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.FieldPath;
import org.holtra.core.lookout.Watch;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.document.SetupDocument;
import org.holtra.core.setup.document.SetupProblem;
import org.holtra.core.text.Nearest;
import org.holtra.core.unit.Units;

/**
 * Warnings about a setup that is good: conditions that read fields nobody ever sent, that compare fields of different units, or a field with a number far
 * outside everything that was seen of it, as when somebody thinks in Fahrenheit and the field does not.
 */
public final class SetupAdvice {

    private static final long ENOUGH = 20;

    private final Setup setup;
    private final SetupDocument document;
    private final FieldKnowledge knowledge;

    private SetupAdvice(Setup setup, SetupDocument document, FieldKnowledge knowledge) {
        this.setup = setup;
        this.document = document;
        this.knowledge = knowledge;
    }

    /** @param yaml the text that the setup was compiled from */
    public static List<SetupProblem> of(String yaml, Setup setup, FieldKnowledge knowledge) {
        return new SetupAdvice(setup, SetupDocument.parse(yaml), knowledge).warnings();
    }

    /** Warnings about one lane, in sentences. */
    public static List<String> of(Lane lane, Setup setup, FieldKnowledge knowledge) {
        SetupAdvice advice = new SetupAdvice(setup, null, knowledge);
        List<String> all = new ArrayList<>(advice.about(lane));
        all.addAll(advice.ofDevices(lane));
        advice.typos(lane).forEach((pointer, what) -> all.add("shape" + pointer.replace('/', '.') + ": " + what));
        return all;
    }

    private List<SetupProblem> warnings() {
        List<SetupProblem> warnings = new ArrayList<>();
        for (Lane lane : setup.lanes().values()) {
            String at = "/lanes/" + lane.name();
            about(lane).forEach(what -> warnings.add(document.problem(at + "/pick", what)));
            ofDevices(lane).forEach(what -> warnings.add(document.problem(at + "/devices", what)));
            typos(lane).forEach((pointer, what) -> warnings.add(document.problem(at + "/shape" + pointer, what)));
        }
        return warnings;
    }

    /** Fields of a shape that nobody ever sent, by the place where they stand. */
    private Map<String, String> typos(Lane lane) {
        Map<String, String> found = new LinkedHashMap<>();
        // What a lane makes of several has fields of its own.
        if (!lane.perPoint() && lane.memory() == null) {
            lane.form().reads().forEach((field, pointer) -> {
                String never = never(lane, field);
                if (never != null) {
                    found.merge(pointer, never, (one, other) -> one + "; " + other);
                }
            });
        }
        return found;
    }

    private List<String> about(Lane lane) {
        List<String> warnings = new ArrayList<>();
        if (lane.pick() == null) {
            return warnings;
        }
        lane.pick().fields().forEach(field -> unknownFact(field).ifPresent(warnings::add));
        warnings.addAll(ofAnyAge(lane.pick()));
        if (lane.perPoint()) {
            // The fields that points have are named by models, and are not those that were seen.
            return warnings;
        }
        for (FieldPath field : lane.pick().fields()) {
            String never = never(lane, field);
            if (never != null) {
                warnings.add(never);
            }
        }
        for (Comparison comparison : lane.pick().comparisons()) {
            String what = comparison.other() != null
                    ? units(comparison.field(), comparison.other())
                    : range(lane, comparison.field(), comparison.number());
            if (what != null) {
                warnings.add(what);
            }
        }
        return warnings;
    }

    /** Devices that are listed and not there, and facts that none has. */
    private List<String> ofDevices(Lane lane) {
        List<String> warnings = new ArrayList<>();
        Lane.Devices devices = lane.selection().devices();
        if (devices.where() != null) {
            devices.where().fields().forEach(field -> unknownFact(field).ifPresent(warnings::add));
            warnings.addAll(ofAnyAge(devices.where()));
        }
        Set<String> there = knowledge.devices();
        for (String key : devices.only()) {
            if (!there.contains(key)) {
                warnings.add("there is no device `" + key + "` yet"
                        + Nearest.of(key, there)
                                .map(near -> "; did you mean `" + near + "`?")
                                .orElse(""));
            }
        }
        return warnings;
    }

    /** Last known values that a condition goes by, whenever they came. */
    private static List<String> ofAnyAge(Condition condition) {
        Map<String, Set<String>> parts = new TreeMap<>();
        for (FieldPath field : condition.fields()) {
            List<String> names = field.names();
            if (names.size() > 3
                    && names.getFirst().equals("device")
                    && names.get(1).equals("last")) {
                parts.computeIfAbsent(String.join(".", names.subList(0, names.size() - 1)), last -> new TreeSet<>())
                        .add(names.getLast());
            }
        }
        return parts.entrySet().stream()
                .filter(last -> last.getValue().equals(Set.of("value")))
                .map(last -> last.getKey() + ".value may be days old; look at its age too, as in " + last.getKey()
                        + ".age < duration('1h')")
                .toList();
    }

    private Optional<String> unknownFact(FieldPath field) {
        List<String> names = field.names();
        if (names.size() < 3
                || !names.getFirst().equals("device")
                || !names.get(1).equals("facts")) {
            return Optional.empty();
        }
        Set<String> known = new TreeSet<>(knowledge.facts());
        setup.models().values().forEach(model -> known.addAll(model.facts().keySet()));
        setup.inlets()
                .values()
                .forEach(inlet -> known.addAll(inlet.unknown().facts().keySet()));
        return known.isEmpty() || known.contains(names.get(2))
                ? Optional.empty()
                : Optional.of(field + " is known of no device"
                        + Nearest.of(names.get(2), known)
                                .map(near -> "; did you mean device.facts." + near + "?")
                                .orElse(""));
    }

    /** A field that nobody sent and no model of those devices has is mistyped more often than it is early. */
    private String never(Lane lane, FieldPath field) {
        String name = name(field);
        Set<String> seen = new TreeSet<>(knowledge.names(lane.inlets()));
        if (lane.inlets().contains(Setup.OWN_INLET)) {
            seen.addAll(Watch.ALARM_FIELDS);
        }
        if (name == null || seen.isEmpty()) {
            return null;
        }
        knowledge
                .models(lane.inlets())
                .forEach(model -> setup.model(model)
                        .ifPresent(one -> seen.addAll(one.fields().keySet())));
        if (seen.contains(name) || seen.stream().anyMatch(known -> known.startsWith(name + "."))) {
            return null;
        }
        return field + " was never seen on " + String.join(", ", lane.inlets())
                + Nearest.of(name, seen)
                        .map(near -> "; did you mean data." + near + "?")
                        .orElse("");
    }

    private String units(FieldPath field, FieldPath other) {
        Set<String> ours = setup.units(field);
        Set<String> theirs = setup.units(other);
        if (ours.size() != 1 || theirs.size() != 1 || ours.equals(theirs)) {
            return null;
        }
        String from = theirs.iterator().next();
        String to = ours.iterator().next();
        String both = field + " is in " + to + " and " + other + " in " + from;
        try {
            Units.convert(1, from, to);
            return both + "; compare it with convert(" + other + ", '" + from + "', '" + to + "')";
        } catch (IllegalArgumentException e) {
            return both + ", which measure different things";
        }
    }

    private String range(Lane lane, FieldPath field, double number) {
        String name = name(field);
        if (name == null) {
            return null;
        }
        FieldKnowledge.Range seen = knowledge
                .range(lane.inlets(), name)
                .filter(range -> range.count() >= ENOUGH)
                .orElse(null);
        if (seen == null) {
            return null;
        }
        double room = Math.max(Math.max(seen.max() - seen.min(), Math.abs(seen.max()) / 2), 1);
        if (number >= seen.min() - room && number <= seen.max() + room) {
            return null;
        }
        Set<String> units = setup.units(field);
        return field + " is compared with " + text(number) + ", but the " + seen.count() + " values seen were "
                + text(seen.min()) + " to " + text(seen.max())
                + (units.size() == 1 ? " " + units.iterator().next() : "")
                + "; is the number in another unit?";
    }

    /** Null if it is no field of the data. */
    private static String name(FieldPath field) {
        return field.names().getFirst().equals("data")
                ? String.join(".", field.names().subList(1, field.names().size()))
                : null;
    }

    private static String text(double number) {
        return number == Math.rint(number) && Math.abs(number) < 1e15
                ? Long.toString((long) number)
                : String.format(Locale.ROOT, "%.6g", number).replaceAll("\\.?0+$", "");
    }
}
