package org.holtra.core.reading.codec;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.BiConsumer;

/**
 * Makes a layout of what a setup file says. What is wrong is told with its place, as a JSON Pointer (RFC 6901) below the
 * layout; as long as nothing is, the layout is good.
 */
public final class LayoutCompiler {

    private static final int MOST_BITS = 64;
    private static final Set<String> TEXTS = Set.of("ascii", "hex");

    private final BiConsumer<String, String> wrong;
    private final Map<String, String> units = new LinkedHashMap<>();
    private BitOrder order = BitOrder.BIG;

    /** @param wrong told each pointer and what is wrong there */
    public LayoutCompiler(BiConsumer<String, String> wrong) {
        this.wrong = wrong;
    }

    public Layout compile(Map<?, ?> layout) {
        order = order(layout, BitOrder.BIG);
        Step.Steps steps = steps(layout.get("fields"), "/fields");
        return new Layout(steps, layout.get("port") instanceof Number port ? port.intValue() : null);
    }

    /** The UCUM codes of the fields that have one, by name. */
    public Map<String, String> units() {
        return units;
    }

    private Step.Steps steps(Object list, String pointer) {
        List<Step> steps = new ArrayList<>();
        if (list instanceof List<?> items) {
            for (int i = 0; i < items.size(); i++) {
                if (items.get(i) instanceof Map<?, ?> item) {
                    steps.addAll(step(item, pointer + "/" + i));
                }
            }
        }
        return new Step.Steps(List.copyOf(steps));
    }

    private List<Step> step(Map<?, ?> item, String pointer) {
        List<String> types = List.of("name", "skip", "repeat", "tags", "fields").stream()
                .filter(item::containsKey)
                .filter(type -> !type.equals("fields") || !item.containsKey("repeat"))
                .toList();
        if (types.size() != 1) {
            wrong.accept(
                    pointer,
                    "each part has one of name, skip, repeat, tags or fields, this has "
                            + (types.isEmpty() ? "none" : String.join(" and ", types)));
            return List.of();
        }
        Step step = switch (types.getFirst()) {
            case "skip" -> new Step.Skip(number(item, "skip", 0));
            case "repeat" -> repeat(item, pointer);
            case "tags" -> tags((Map<?, ?>) item.get("tags"), pointer + "/tags");
            case "fields" -> new Step.Group(When.ALWAYS, steps(item.get("fields"), pointer + "/fields"));
            default -> field(item, pointer);
        };
        List<Step> found = new ArrayList<>();
        if (item.containsKey("at")) {
            found.add(new Step.At(number(item, "at", 0)));
        }
        if (step != null) {
            found.add(step);
        }
        return item.get("when") instanceof Map<?, ?> when
                ? List.of(new Step.Group(when(when), new Step.Steps(found)))
                : found;
    }

    private Step field(Map<?, ?> item, String pointer) {
        String type = item.get("type") instanceof String text ? text : "unsigned";
        int bits = bits(item, type);
        String misfit = misfit(type, bits);
        if (misfit != null) {
            wrong.accept(pointer, misfit);
            return null;
        }
        String name = String.valueOf(item.get("name"));
        if (item.get("unit") instanceof String unit) {
            units.put(name, unit);
        }
        Set<Long> absent = new LinkedHashSet<>();
        for (Object value : list(item.get("absent"))) {
            absent.add(bitsOf(value, bits));
        }
        return new Step.Field(
                new FieldName(name),
                form(type, item, pointer),
                bits,
                order(item, order),
                absent,
                Boolean.TRUE.equals(item.get("optional")));
    }

    /** A raw value as its bits stand in the payload: -1 in 16 bits is 0xffff. */
    private static long bitsOf(Object value, int bits) {
        long raw = value instanceof Number number ? number.longValue() : Long.decode(value.toString());
        return bits >= MOST_BITS ? raw : raw & (1L << bits) - 1;
    }

    private static int bits(Map<?, ?> item, String type) {
        if (item.containsKey("bytes")) {
            return number(item, "bytes", 0) * 8;
        }
        return number(
                item,
                "bits",
                switch (type) {
                    case "float16" -> 16;
                    case "float32" -> 32;
                    case "float64" -> 64;
                    case "bool" -> 1;
                    default -> 0;
                });
    }

    private static String misfit(String type, int bits) {
        if (bits <= 0) {
            return "say how long it is, with bits or bytes";
        }
        if (TEXTS.contains(type)) {
            return bits % 8 == 0 ? null : type + " takes whole bytes";
        }
        if (bits > MOST_BITS) {
            return "a number has at most 64 bits";
        }
        if (type.startsWith("float") && bits != Integer.parseInt(type.substring(5))) {
            return type + " has " + type.substring(5) + " bits";
        }
        return type.equals("bcd") && bits % 4 != 0 ? "bcd takes four bits a digit" : null;
    }

    private Form form(String type, Map<?, ?> item, String pointer) {
        return switch (type) {
            case "signed" -> new Form.Whole(Form.Whole.Sign.SIGNED, scale(item));
            case "sign-magnitude" -> new Form.Whole(Form.Whole.Sign.SIGN_MAGNITUDE, scale(item));
            case "float16", "float32", "float64" -> new Form.Floating(scale(item));
            case "bcd" -> new Form.Decimal(scale(item));
            case "bool" -> new Form.Flag();
            case "flags" -> new Form.Flags(flags(item, pointer));
            case "enum" -> new Form.Choice(choices(item, pointer));
            case "ascii" -> new Form.Text();
            case "hex" -> new Form.Hex();
            default -> new Form.Whole(Form.Whole.Sign.UNSIGNED, scale(item));
        };
    }

    private Map<Integer, String> flags(Map<?, ?> item, String pointer) {
        Map<Integer, String> flags = new LinkedHashMap<>();
        names(item, "flags", pointer).forEach((bit, name) -> flags.put(bit.intValue(), name));
        return flags;
    }

    private Map<Long, String> choices(Map<?, ?> item, String pointer) {
        return names(item, "values", pointer);
    }

    private Map<Long, String> names(Map<?, ?> item, String field, String pointer) {
        Map<Long, String> names = new LinkedHashMap<>();
        if (!(item.get(field) instanceof Map<?, ?> map) || map.isEmpty()) {
            wrong.accept(pointer, "say with " + field + " which numbers have which names");
            return names;
        }
        map.forEach((number, name) -> {
            try {
                names.put(Long.decode(number.toString()), name.toString());
            } catch (NumberFormatException e) {
                wrong.accept(pointer + "/" + field, "`" + number + "` is not a whole number");
            }
        });
        return names;
    }

    private Step repeat(Map<?, ?> item, String pointer) {
        Object times = item.get("times");
        return new Step.Repeat(
                new FieldName(String.valueOf(item.get("repeat"))),
                times instanceof Number number ? number.intValue() : 0,
                times instanceof String name ? new FieldName(name) : null,
                steps(item.get("fields"), pointer + "/fields"));
    }

    private Step tags(Map<?, ?> item, String pointer) {
        int length = number(item, "length", 0);
        boolean skip = "skip".equals(item.get("unknown"));
        if (skip && length == 0) {
            wrong.accept(pointer + "/unknown", "an unknown tag can only be skipped where a length follows each tag");
        }
        Map<Long, Step.Steps> cases = new LinkedHashMap<>();
        if (item.get("cases") instanceof Map<?, ?> named) {
            named.forEach((tag, fields) -> {
                try {
                    cases.put(Long.decode(tag.toString()), steps(fields, pointer + "/cases/" + tag));
                } catch (NumberFormatException e) {
                    wrong.accept(pointer + "/cases/" + tag, "`" + tag + "` is not a number such as 3 or 0x0367");
                }
            });
        }
        return new Step.Tags(number(item, "bits", 8), length, order(item, order), cases, skip);
    }

    private static When when(Map<?, ?> map) {
        List<When.Test> tests = new ArrayList<>();
        map.forEach((name, value) -> tests.add(
                new When.Test(name.equals("port") ? null : new FieldName(name.toString()), List.copyOf(list(value)))));
        return new When(tests);
    }

    private static Scale scale(Map<?, ?> item) {
        if (!item.containsKey("scale") && !item.containsKey("offset")) {
            return Scale.NONE;
        }
        return new Scale(decimal(item, "scale", BigDecimal.ONE), decimal(item, "offset", BigDecimal.ZERO));
    }

    private static BigDecimal decimal(Map<?, ?> item, String field, BigDecimal usual) {
        return item.get(field) instanceof Number number ? new BigDecimal(number.toString()) : usual;
    }

    private static BitOrder order(Map<?, ?> item, BitOrder usual) {
        return item.get("order") instanceof String word
                ? word.equals("little") ? BitOrder.LITTLE : BitOrder.BIG
                : usual;
    }

    private static int number(Map<?, ?> item, String field, int usual) {
        return item.get(field) instanceof Number number ? number.intValue() : usual;
    }

    private static List<?> list(Object value) {
        return value == null ? List.of() : value instanceof List<?> list ? list : List.of(value);
    }
}
