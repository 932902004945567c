package org.holtra.service.devices;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

@Mapper
interface DeviceMapper {

    record Row(
            String key,
            String model,
            String facts,
            int revision,
            boolean simulated,
            Instant firstHeard,
            Instant lastHeard) {}

    @Select(
            "select key, model, facts::text as facts, revision, simulated, first_heard, last_heard from device order by key")
    List<Row> all();

    @Select("""
            select device as key, model, facts::text as facts, revision, false as simulated,
                   null::timestamptz as first_heard, null::timestamptz as last_heard
            from device_facts where device = #{key} and revision = #{revision}
            """)
    Row earlier(@Param("key") String key, @Param("revision") int revision);

    @Insert("""
            insert into device (key, simulated, first_heard, last_heard) values (#{key}, #{simulated}, #{heard}, #{heard})
            on conflict (key) do nothing
            """)
    void appear(@Param("key") String key, @Param("simulated") boolean simulated, @Param("heard") Instant heard);

    @Update("""
            update device d set last_heard = u.heard, first_heard = coalesce(d.first_heard, u.heard), last_message = u.message
            from unnest(#{keys}::text[], #{heard}::timestamptz[], #{messages}::uuid[]) as u(key, heard, message)
            where d.key = any(#{keys}::text[]) and d.key = u.key and (d.last_heard is null or d.last_heard <= u.heard)
            """)
    void heard(@Param("keys") String[] keys, @Param("heard") Instant[] heard, @Param("messages") UUID[] messages);

    /** What was heard in the last moments before a process was killed stands in the journal only. */
    @Update("""
            update device d set last_heard = m.received, last_message = m.id
            from (select distinct on (device) device, received, id from message
                  where received > (select max(last_heard) - interval '10 seconds' from device) and device is not null
                  order by device, received desc) m
            where m.device = d.key and (d.last_heard is null or d.last_heard < m.received)
            """)
    void catchUp();

    @Insert("""
            insert into device_facts (device, revision, model, facts, changed, changed_by)
            select key, revision, model, facts, #{at}, #{by} from device where key = #{key}
            """)
    void keepRevision(@Param("key") String key, @Param("at") Instant at, @Param("by") String by);

    @Insert("""
            insert into device (key, model, facts, simulated) values (#{key}, #{model}, #{facts}::jsonb, false)
            on conflict (key) do update
              set model = excluded.model, facts = excluded.facts, revision = device.revision + 1
            """)
    void change(@Param("key") String key, @Param("model") String model, @Param("facts") String facts);

    @Select("""
            select key, model, facts::text as facts, revision, simulated, first_heard, last_heard
            from device where key = #{key}
            """)
    Row find(@Param("key") String key);
}
