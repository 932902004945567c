package org.holtra.core.reading.codec;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** One step through a payload, in both directions. */
sealed interface Step {

    void decode(Cursor at) throws CodecFailure;

    void encode(Pen to) throws CodecFailure;

    /** All steps one after the other. */
    record Steps(List<Step> steps) {

        void decode(Cursor at) throws CodecFailure {
            for (Step step : steps) {
                step.decode(at);
            }
        }

        void encode(Pen to) throws CodecFailure {
            for (Step step : steps) {
                step.encode(to);
            }
        }
    }

    /**
     * @param absent raw values that mean there is none
     * @param optional whether the payload may end before it
     */
    record Field(FieldName name, Form form, int bits, BitOrder order, Set<Long> absent, boolean optional)
            implements Step {

        @Override
        public void decode(Cursor at) throws CodecFailure {
            if (at.end - at.bit < bits) {
                if (optional && at.bit == at.end) {
                    return;
                }
                at.need(bits, "`" + name + "`");
            }
            int start = at.bit;
            at.bit += bits;
            if (!absent.isEmpty() && absent.contains(order.read(at.bytes, start, bits))) {
                return;
            }
            Object value;
            try {
                value = form.value(at.bytes, start, bits, order);
            } catch (CodecFailure e) {
                throw new CodecFailure("byte " + (start >>> 3) + ": `" + name + "` " + e.getMessage());
            }
            if (value != null) {
                name.put(at.fields, value);
            } else {
                at.warn("byte " + (start >>> 3) + ": `" + name + "` is not a number, and left out");
            }
        }

        @Override
        public void encode(Pen to) throws CodecFailure {
            Object value = name.get(to.fields);
            if (value == null) {
                if (absent.isEmpty()) {
                    if (optional) {
                        return;
                    }
                    throw new CodecFailure("`" + name + "` is missing");
                }
                to.write(order, bits, absent.iterator().next());
                return;
            }
            Object raw;
            try {
                raw = form.raw(value, bits);
            } catch (CodecFailure e) {
                throw new CodecFailure("`" + name + "` " + e.getMessage());
            }
            if (raw instanceof byte[] bytes) {
                for (byte one : bytes) {
                    to.write(order, 8, one);
                }
            } else {
                to.write(order, bits, (long) raw);
            }
        }
    }

    /** Bits that stand for nothing; written as zeros. */
    record Skip(int bits) implements Step {
        @Override
        public void decode(Cursor at) throws CodecFailure {
            at.need(bits, "what is skipped");
            at.bit += bits;
        }

        @Override
        public void encode(Pen to) throws CodecFailure {
            for (int left = bits; left > 0; left -= 64) {
                to.write(BitOrder.BIG, Math.min(left, 64), 0);
            }
        }
    }

    /** Goes on from this byte of the payload. */
    record At(int offset) implements Step {
        @Override
        public void decode(Cursor at) throws CodecFailure {
            at.bit = Math.min(offset * 8, at.end);
            if (offset * 8 > at.end) {
                throw new CodecFailure("byte " + offset + " is past the end, the payload has " + at.bytes.length);
            }
        }

        @Override
        public void encode(Pen to) throws CodecFailure {
            while (to.bit < offset * 8) {
                to.write(BitOrder.BIG, Math.min(64, offset * 8 - to.bit), 0);
            }
            to.bit = offset * 8;
        }
    }

    /** Steps taken under a condition. */
    record Group(When when, Steps steps) implements Step {
        @Override
        public void decode(Cursor at) throws CodecFailure {
            if (when.holds(at.port, at.fields, at.root)) {
                steps.decode(at);
            }
        }

        @Override
        public void encode(Pen to) throws CodecFailure {
            if (when.holds(to.port, to.fields, to.root)) {
                steps.encode(to);
            }
        }
    }

    /**
     * The same steps again and again, giving a list of objects.
     *
     * @param times how often; 0 where another field says so, or until the end
     * @param count the field that says how often, or null
     */
    record Repeat(FieldName name, int times, FieldName count, Steps steps) implements Step {

        /** Steps that take no bits would go on for ever. */
        private static final int MOST = 10_000;

        @Override
        public void decode(Cursor at) throws CodecFailure {
            Map<String, Object> outer = at.fields;
            List<Object> items = new ArrayList<>();
            int wanted = wanted(outer, at.root);
            while (wanted < 0 ? at.bit < at.end : items.size() < wanted) {
                if (items.size() == MOST) {
                    throw new CodecFailure("`" + name + "` repeats more than " + MOST + " times");
                }
                int before = at.bit;
                at.fields = new LinkedHashMap<>();
                steps.decode(at);
                items.add(at.fields);
                if (at.bit == before && wanted < 0) {
                    throw new CodecFailure("byte " + (before >>> 3) + ": `" + name + "` repeats without taking a bit");
                }
            }
            at.fields = outer;
            name.put(outer, items);
        }

        private int wanted(Map<?, ?> fields, Map<?, ?> root) throws CodecFailure {
            if (count == null) {
                return times == 0 ? -1 : times;
            }
            Object near = count.get(fields);
            Object value = near == null ? count.get(root) : near;
            if (!(value instanceof Number number)) {
                throw new CodecFailure("`" + name + "` repeats `" + count + "` times, which is " + value);
            }
            return number.intValue();
        }

        @Override
        public void encode(Pen to) throws CodecFailure {
            if (!(name.get(to.fields) instanceof List<?> items)) {
                throw new CodecFailure("`" + name + "` is missing, a list was expected");
            }
            int wanted = wanted(to.fields, to.root);
            if (wanted >= 0 && wanted != items.size()) {
                throw new CodecFailure("`" + name + "` has " + items.size() + " parts, " + wanted + " were expected");
            }
            Map<?, ?> outer = to.fields;
            for (Object item : items) {
                if (!(item instanceof Map<?, ?> fields)) {
                    throw new CodecFailure("`" + name + "` holds " + item + ", an object was expected");
                }
                to.fields = fields;
                steps.encode(to);
            }
            to.fields = outer;
        }
    }

    /**
     * A stream of tags, each followed by what belongs to it, until the end. Encoding writes those whose first field is
     * there, in the order they are declared.
     *
     * @param length bits of a length in bytes after each tag; 0 if there is none
     * @param skipUnknown whether a tag that is not declared is passed over; only possible with a length
     */
    record Tags(int tagBits, int length, BitOrder order, Map<Long, Steps> cases, boolean skipUnknown) implements Step {
        @Override
        public void decode(Cursor at) throws CodecFailure {
            while (at.bit < at.end) {
                int start = at.bit;
                at.need(tagBits + length, "a tag");
                long tag = order.read(at.bytes, at.bit, tagBits);
                at.bit += tagBits;
                int size = -1;
                if (length > 0) {
                    size = (int) order.read(at.bytes, at.bit, length);
                    at.bit += length;
                    at.need(size * 8, "what follows the tag " + name(tag));
                }
                int after = at.bit + size * 8;
                Steps steps = cases.get(tag);
                if (steps != null) {
                    steps.decode(at);
                    if (size >= 0 && at.bit != after) {
                        throw new CodecFailure("byte " + (start >>> 3) + ": the tag " + name(tag) + " says "
                                + Cursor.amount(size * 8) + " follow, the layout takes "
                                + Cursor.amount(at.bit - after + size * 8));
                    }
                } else if (skipUnknown) {
                    at.warn("byte " + (start >>> 3) + ": the tag " + name(tag) + " is not in the layout, and skipped");
                    at.bit = after;
                } else {
                    throw new CodecFailure(
                            "byte " + (start >>> 3) + ": the tag " + name(tag) + " is not in the layout");
                }
            }
        }

        private String name(long tag) {
            return "0x" + ("%0" + Math.max(1, tagBits / 4) + "x").formatted(tag);
        }

        @Override
        public void encode(Pen to) throws CodecFailure {
            for (Map.Entry<Long, Steps> one : cases.entrySet()) {
                Steps steps = one.getValue();
                if (!present(steps, to.fields)) {
                    continue;
                }
                to.write(order, tagBits, one.getKey());
                int lengthAt = to.bit;
                if (length > 0) {
                    to.write(order, length, 0);
                }
                int start = to.bit;
                steps.encode(to);
                if (length > 0) {
                    int end = to.bit;
                    to.bit = lengthAt;
                    to.write(order, length, (end - start) / 8);
                    to.bit = end;
                }
            }
        }

        private static boolean present(Steps steps, Map<?, ?> fields) {
            return steps.steps().stream().anyMatch(step -> switch (step) {
                case Field field -> field.name().get(fields) != null;
                case Repeat repeat -> repeat.name().get(fields) != null;
                case Group group -> present(group.steps(), fields);
                default -> false;
            });
        }
    }
}
