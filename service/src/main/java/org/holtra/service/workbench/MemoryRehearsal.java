package org.holtra.service.workbench;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import java.util.stream.Stream;
import org.holtra.core.memory.Changed;
import org.holtra.core.memory.Downsample;
import org.holtra.core.memory.Increase;
import org.holtra.core.memory.Input;
import org.holtra.core.memory.Memory;
import org.holtra.core.memory.Step;
import org.holtra.core.message.MessageId;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Measured;
import org.holtra.service.reading.Past;
import org.springframework.stereotype.Component;

/** Runs a lane with memory, active or not, over stored messages: what it would have made of them. Nothing is kept. */
@Component
class MemoryRehearsal {

    private static final Duration USUAL_SPAN = Duration.ofDays(1);
    private static final int MOST_KEYS = 100;
    private static final int MOST_MADE = 200;

    /**
     * @param from when it begins; null for a day before its end
     * @param to when it ends; null for now
     * @param key whose values are wanted; null for the one with the most messages
     * @param field that is to be shown, by its flat name; null for the first with a number
     */
    record Over(Instant from, Instant to, String key, String field) {}

    /** @param sent how many messages would have gone on */
    record Key(String key, int taken, int sent) {}

    /** What it would have made. */
    record Made(String key, Instant at, Map<String, Object> data, String note) {}

    /**
     * @param taken messages that the lane takes
     * @param sent how many would have gone on: made of others, or as they are
     * @param open that are in the memory still at the end
     * @param late that came after what they belong to was closed
     * @param cut whether there were more messages than are gone through
     * @param becomes the name under which the field goes on
     */
    record Rehearsed(
            Instant from,
            Instant to,
            int taken,
            int sent,
            int open,
            int late,
            boolean cut,
            List<Key> keys,
            List<String> fields,
            String shown,
            String field,
            String becomes,
            List<Measured> before,
            List<Measured> after,
            List<Made> made) {}

    /** What of a key came and went. */
    private static final class Course {
        private final List<Input> came = new ArrayList<>();
        private final List<Made> made = new ArrayList<>();
        private final Map<UUID, Input> open = new HashMap<>();
        /** How many are part of what is not made yet. */
        private final Map<MessageId, Integer> parts = new HashMap<>();

        private int late;

        private int left() {
            return open.size()
                    + parts.values().stream().mapToInt(Integer::intValue).sum();
        }
    }

    private final Past past;
    private final InstantSource clock;

    MemoryRehearsal(Past past, InstantSource clock) {
        this.past = past;
        this.clock = clock;
    }

    Rehearsed run(Lane lane, Setup setup, Over wanted) {
        Instant to = wanted.to == null ? clock.instant() : wanted.to;
        Instant from = wanted.from == null ? to.minus(USUAL_SPAN) : wanted.from;
        Over over = new Over(from, to, wanted.key, wanted.field);
        Past.Messages found = past.of(new Past.Wanted(lane.inlets(), null, over.from, over.to));
        Map<String, Course> courses = new TreeMap<>();
        MemoryRun run = new MemoryRun(lane, setup.revision(), new Courses(courses));
        for (StoredMessage one : found.messages()) {
            past.scope(one, setup).filter(lane::takes).ifPresent(scope -> run.take(one, scope));
        }
        run.until(over.to);
        return told(lane.memory(), courses, found.cut(), over);
    }

    /** What becomes of the messages, by key. */
    private record Courses(Map<String, Course> all) implements MemoryRun.Listener {

        @Override
        public void took(String key, Input input) {
            Course course = all.computeIfAbsent(key, fresh -> new Course());
            course.came.add(input);
            course.open.put(input.message(), input);
        }

        @Override
        public void fate(String key, Step.Fate fate, MessageId into) {
            Course course = all.get(key);
            Input input = course.open.remove(fate.message());
            if (into != null) {
                course.parts.merge(into, 1, Integer::sum);
            }
            if (fate instanceof Step.Fate.Passed(UUID message, boolean late)) {
                course.late += late ? 1 : 0;
                course.made.add(new Made(key, input.at(), input.fields(), late ? "came late" : "as it is"));
            }
        }

        @Override
        public void made(String key, StoredMessage message, Map<String, Object> fields) {
            all.get(key).parts.remove(message.id());
            all.get(key).made.add(new Made(key, message.eventTime(), fields, message.reason()));
        }
    }

    private static Rehearsed told(Memory memory, Map<String, Course> courses, boolean cut, Over over) {
        List<Key> keys = courses.entrySet().stream()
                .map(one -> new Key(
                        one.getKey(),
                        one.getValue().came.size(),
                        one.getValue().made.size()))
                .sorted(Comparator.comparingInt(Key::taken).reversed().thenComparing(Key::key))
                .toList();
        String first = keys.isEmpty() ? null : keys.getFirst().key();
        String shown = over.key != null && courses.containsKey(over.key) ? over.key : first;
        Course course = shown == null ? new Course() : courses.get(shown);
        TreeSet<String> fields = new TreeSet<>();
        course.came.forEach(one -> one.fields().forEach((name, value) -> {
            if (value instanceof Number) {
                fields.add(name);
            }
        }));
        String field = Stream.concat(Stream.ofNullable(over.field), about(memory))
                .filter(fields::contains)
                .findFirst()
                .orElse(fields.isEmpty() ? null : fields.first());
        String becomes = memory.operation() instanceof Increase increase && field != null
                ? increase.counters().getOrDefault(field, field)
                : field;
        List<Made> made = course.made.stream()
                .sorted(Comparator.comparing(Made::at).reversed())
                .limit(MOST_MADE)
                .toList();
        return new Rehearsed(
                over.from,
                over.to,
                courses.values().stream().mapToInt(one -> one.came.size()).sum(),
                courses.values().stream().mapToInt(one -> one.made.size()).sum(),
                memory.split() != null
                        ? 0
                        : courses.values().stream().mapToInt(Course::left).sum(),
                courses.values().stream().mapToInt(one -> one.late).sum(),
                cut,
                keys.subList(0, Math.min(keys.size(), MOST_KEYS)),
                List.copyOf(fields),
                shown,
                field,
                becomes,
                values(course.came.stream().map(one -> value(one.at(), one.fields(), field))),
                values(course.made.stream().map(one -> value(one.at, one.data, becomes))),
                made);
    }

    /** The fields that its memory is about. */
    private static Stream<String> about(Memory memory) {
        return switch (memory.operation()) {
            case Increase increase -> increase.counters().keySet().stream();
            case Downsample downsample -> downsample.fields().keySet().stream();
            case Changed changed -> changed.bands().keySet().stream();
            case null, default -> Stream.empty();
        };
    }

    /** Null if there is no number. */
    private static Measured value(Instant at, Map<String, Object> data, String field) {
        return field != null && data.get(field) instanceof Number number
                ? new Measured(at, number.doubleValue())
                : null;
    }

    private static List<Measured> values(Stream<Measured> all) {
        return Measured.drawn(all.filter(Objects::nonNull).toList());
    }
}
