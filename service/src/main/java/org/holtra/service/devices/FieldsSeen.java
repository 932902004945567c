package org.holtra.service.devices;

import java.time.Instant;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.holtra.core.expression.Plain;
import org.holtra.core.setup.advice.FieldKnowledge;
import org.holtra.service.cluster.Node;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/**
 * What fields were really seen on each inlet, by model: their type, last value, range and how often, on all nodes. Written
 * every few seconds; what was seen in the last ones before a kill is not counted, for this is a help and no record.
 */
@Component
public class FieldsSeen implements FieldKnowledge {

    /**
     * @param model of the device; empty for none
     * @param kind {@code number}, {@code text} or {@code bool}
     * @param last as JSON
     * @param min and {@code max}: of numbers, else null
     */
    public record Field(
            String inlet,
            String model,
            String name,
            String kind,
            String last,
            Double min,
            Double max,
            long count,
            Instant firstSeen,
            Instant lastSeen) {

        Field counted(long times) {
            return new Field(inlet, model, name, kind, last, min, max, times, firstSeen, lastSeen);
        }
    }

    /** Fields, a column each. */
    record Columns(
            String[] inlet,
            String[] model,
            String[] name,
            String[] kind,
            String[] last,
            Double[] min,
            Double[] max,
            Long[] count,
            Instant[] firstSeen,
            Instant[] lastSeen) {

        static Columns of(List<Field> fields) {
            return new Columns(
                    fields.stream().map(Field::inlet).toArray(String[]::new),
                    fields.stream().map(Field::model).toArray(String[]::new),
                    fields.stream().map(Field::name).toArray(String[]::new),
                    fields.stream().map(Field::kind).toArray(String[]::new),
                    fields.stream().map(Field::last).toArray(String[]::new),
                    fields.stream().map(Field::min).toArray(Double[]::new),
                    fields.stream().map(Field::max).toArray(Double[]::new),
                    fields.stream().map(Field::count).toArray(Long[]::new),
                    fields.stream().map(Field::firstSeen).toArray(Instant[]::new),
                    fields.stream().map(Field::lastSeen).toArray(Instant[]::new));
        }
    }

    private record Key(String inlet, String model, String name) {}

    /** What is kept of a field between messages; its last value becomes JSON only when somebody looks at it. */
    private record Seen(Object last, Double min, Double max, long count, Instant first, Instant latest) {

        static Seen of(Field field) {
            return new Seen(
                    JSON.readValue(field.last, Object.class),
                    field.min,
                    field.max,
                    field.count,
                    field.firstSeen,
                    field.lastSeen);
        }

        Field field(Key key) {
            return new Field(
                    key.inlet,
                    key.model,
                    key.name,
                    last instanceof Number ? "number" : last instanceof Boolean ? "bool" : "text",
                    JSON.writeValueAsString(Plain.of(last)),
                    min,
                    max,
                    count,
                    first,
                    latest);
        }
    }

    private static final int MOST = 20_000;
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Logger log = LoggerFactory.getLogger(FieldsSeen.class);

    private final FieldMapper mapper;
    private final Node node;
    private final DeviceRegistry registry;
    private final Map<Key, Seen> all = new ConcurrentHashMap<>();
    /** How often each was seen since it was written last. */
    private final Map<Key, Long> unwritten = new ConcurrentHashMap<>();

    FieldsSeen(FieldMapper mapper, Node node, DeviceRegistry registry) {
        this.registry = registry;
        this.mapper = mapper;
        this.node = node;
    }

    public void load() {
        mapper.all().forEach(field -> all.put(new Key(field.inlet(), field.model(), field.name()), Seen.of(field)));
    }

    /** Called every so often: takes over what other nodes saw, with what this one saw and has not written yet. */
    public void hearOfOthers() {
        if (node.hasCompany()) {
            write();
            mapper.all().forEach(field -> {
                Key key = new Key(field.inlet(), field.model(), field.name());
                all.compute(key, (k, mine) -> Seen.of(field.counted(field.count() + unwritten.getOrDefault(key, 0L))));
            });
        }
    }

    public void saw(String inlet, String model, Map<String, Object> fields, Instant at) {
        String of = model == null ? "" : model;
        fields.forEach((name, value) -> {
            Key key = new Key(inlet, of, name);
            if (all.size() >= MOST && !all.containsKey(key)) {
                return;
            }
            all.compute(key, (k, before) -> next(before, value, at));
            unwritten.merge(key, 1L, Long::sum);
        });
    }

    private static Seen next(Seen before, Object value, Instant at) {
        Double number = value instanceof Number any ? (Double) any.doubleValue() : null;
        if (before == null) {
            return new Seen(value, number, number, 1, at, at);
        }
        return new Seen(
                value,
                number == null || before.min == null ? number : (Double) Math.min(before.min, number),
                number == null || before.max == null ? number : (Double) Math.max(before.max, number),
                before.count + 1,
                before.first,
                at);
    }

    /** The range of a numeric field over these inlets and all models. */
    @Override
    public Optional<FieldKnowledge.Range> range(Set<String> inlets, String name) {
        return all.entrySet().stream()
                .filter(one -> inlets.contains(one.getKey().inlet)
                        && one.getKey().name.equals(name)
                        && one.getValue().min != null)
                .map(Map.Entry::getValue)
                .map(seen -> new FieldKnowledge.Range(seen.min, seen.max, seen.count))
                .reduce((a, b) -> new FieldKnowledge.Range(
                        Math.min(a.min(), b.min()), Math.max(a.max(), b.max()), a.count() + b.count()));
    }

    @Override
    public Set<String> names(Set<String> inlets) {
        return all.keySet().stream()
                .filter(key -> inlets.contains(key.inlet))
                .map(Key::name)
                .collect(Collectors.toSet());
    }

    @Override
    public Set<String> models(Set<String> inlets) {
        return all.keySet().stream()
                .filter(key -> inlets.contains(key.inlet))
                .map(Key::model)
                .collect(Collectors.toSet());
    }

    @Override
    public Set<String> devices() {
        return registry.all().stream().map(Device::key).collect(Collectors.toSet());
    }

    @Override
    public Set<String> facts() {
        return registry.all().stream()
                .flatMap(device -> device.knowledge().facts().keySet().stream())
                .collect(Collectors.toSet());
    }

    public Stream<Field> all() {
        return all.entrySet().stream().map(one -> one.getValue().field(one.getKey()));
    }

    public void write() {
        Map<Key, Long> counts = new HashMap<>();
        for (Key key : List.copyOf(unwritten.keySet())) {
            Long count = unwritten.remove(key);
            if (count != null) {
                counts.put(key, count);
            }
        }
        if (counts.isEmpty()) {
            return;
        }
        try {
            // In an order that is the same for all nodes, so that two of them never wait for each other.
            mapper.put(Columns.of(counts.keySet().stream()
                    .sorted(Comparator.comparing(Key::toString))
                    .map(key -> all.get(key).field(key).counted(counts.get(key)))
                    .toList()));
        } catch (DataAccessException e) {
            counts.forEach((key, count) -> unwritten.merge(key, count, Long::sum));
            log.debug("What fields were seen could not be written and is kept for the next time: {}", e.getMessage());
        }
    }

    @Mapper
    interface FieldMapper {

        @Select("select inlet, model, name, kind, last, min, max, count, first_seen, last_seen from field_seen")
        List<Field> all();

        @Insert("""
                insert into field_seen (inlet, model, name, kind, last, min, max, count, first_seen, last_seen)
                select * from unnest(#{c.inlet}::text[], #{c.model}::text[], #{c.name}::text[], #{c.kind}::text[],
                                     #{c.last}::text[], #{c.min}::float8[], #{c.max}::float8[], #{c.count}::int8[],
                                     #{c.firstSeen}::timestamptz[], #{c.lastSeen}::timestamptz[])
                on conflict (inlet, model, name) do update
                  set kind = case when excluded.last_seen < field_seen.last_seen then field_seen.kind else excluded.kind end,
                      last = case when excluded.last_seen < field_seen.last_seen then field_seen.last else excluded.last end,
                      min = least(field_seen.min, excluded.min), max = greatest(field_seen.max, excluded.max),
                      count = field_seen.count + excluded.count,
                      first_seen = least(field_seen.first_seen, excluded.first_seen),
                      last_seen = greatest(field_seen.last_seen, excluded.last_seen)
                """)
        void put(@Param("c") Columns columns);
    }
}
