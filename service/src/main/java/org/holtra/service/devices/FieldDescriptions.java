package org.holtra.service.devices;

import java.time.Instant;
import java.time.InstantSource;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.holtra.service.cluster.Node;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/**
 * What senders said of fields themselves, by inlet; of two devices that say different things of the same field, what was said
 * last. A help for people, and no record: written every few seconds.
 */
@Component
public class FieldDescriptions {

    private static final int MOST = 20_000;
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Logger log = LoggerFactory.getLogger(FieldDescriptions.class);

    private record Key(String inlet, String name) {}

    /** @param properties as JSON */
    record Row(String inlet, String name, String type, String unit, String properties) {

        FieldDescription description() {
            @SuppressWarnings("unchecked")
            Map<String, Object> read = JSON.readValue(properties, Map.class);
            return new FieldDescription(type, unit, read);
        }
    }

    private final DescriptionMapper mapper;
    private final Node node;
    private final InstantSource clock;
    private final Map<Key, FieldDescription> all = new ConcurrentHashMap<>();
    private final Set<Key> unwritten = ConcurrentHashMap.newKeySet();

    FieldDescriptions(DescriptionMapper mapper, Node node, InstantSource clock) {
        this.mapper = mapper;
        this.node = node;
        this.clock = clock;
    }

    public void load() {
        for (Row row : mapper.all()) {
            Key key = new Key(row.inlet, row.name);
            if (!unwritten.contains(key)) {
                all.put(key, row.description());
            }
        }
    }

    /** Called every so often: takes over what other nodes were told. */
    public void hearOfOthers() {
        if (node.hasCompany()) {
            write();
            load();
        }
    }

    /** Returns at once. */
    public void told(String inlet, Map<String, FieldDescription> fields) {
        fields.forEach((name, description) -> {
            Key key = new Key(inlet, name);
            boolean fits = all.size() < MOST || all.containsKey(key);
            if (fits && !description.equals(all.put(key, description))) {
                unwritten.add(key);
            }
        });
    }

    public Optional<FieldDescription> of(String inlet, String name) {
        return Optional.ofNullable(all.get(new Key(inlet, name)));
    }

    /** Called every so often. */
    public void write() {
        List<Key> keys = unwritten.stream()
                .sorted(Comparator.comparing(Key::inlet).thenComparing(Key::name))
                .toList();
        Instant now = clock.instant();
        for (Key key : keys) {
            unwritten.remove(key);
            FieldDescription one = all.get(key);
            try {
                mapper.put(
                        new Row(key.inlet, key.name, one.type(), one.unit(), JSON.writeValueAsString(one.properties())),
                        now);
            } catch (DataAccessException e) {
                unwritten.add(key);
                log.debug("Descriptions of fields could not be written and are kept for later: {}", e.getMessage());
                return;
            }
        }
    }

    @Mapper
    interface DescriptionMapper {

        @Select("select inlet, name, type, unit, properties from field_description")
        List<Row> all();

        @Insert("""
                insert into field_description (inlet, name, type, unit, properties, told)
                values (#{d.inlet}, #{d.name}, #{d.type}, #{d.unit}, #{d.properties}, #{now})
                on conflict (inlet, name) do update
                  set type = excluded.type, unit = excluded.unit, properties = excluded.properties, told = excluded.told
                """)
        void put(@Param("d") Row row, @Param("now") Instant now);
    }
}
