package org.holtra.service.devices;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;

@Mapper
interface DeviceMapper {

    String KNOWN = "model, facts::text as facts, points::text as points, zone, installed, silent_after,"
            + " channels::text as channels, revision";

    /** What people know, as two statements give it. */
    interface Known {
        String model();

        String facts();

        String points();

        String zone();

        Instant installed();

        String silentAfter();

        String channels();
    }

    record Row(
            String key,
            String model,
            String facts,
            String points,
            String zone,
            Instant installed,
            String silentAfter,
            String channels,
            int revision,
            boolean barred,
            boolean simulated)
            implements Known {}

    record LifeRow(String key, String life) {}

    record RevisionRow(
            int revision,
            String model,
            String facts,
            String points,
            String zone,
            Instant installed,
            String silentAfter,
            String channels,
            Instant changed,
            String changedBy)
            implements Known {}

    @Select("select key, " + KNOWN + ", barred, simulated from device order by key")
    List<Row> all();

    @Select("select key, " + KNOWN + ", barred, simulated from device where key = #{key}")
    Row find(@Param("key") String key);

    @Select("select device as key, " + KNOWN + ", false as barred, false as simulated from device_facts"
            + " where device = #{key} and revision = #{revision}")
    Row earlier(@Param("key") String key, @Param("revision") int revision);

    /** Earlier revisions, the newest first, each with when and by whom it was replaced. */
    @Select("select " + KNOWN + ", changed, changed_by from device_facts where device = #{key} order by revision desc")
    List<RevisionRow> revisions(@Param("key") String key);

    @Insert("""
            insert into device (key, simulated, model, facts) values (#{key}, #{simulated}, #{model}, #{facts}::jsonb)
            on conflict (key) do nothing
            """)
    int appear(
            @Param("key") String key,
            @Param("simulated") boolean simulated,
            @Param("model") String model,
            @Param("facts") String facts);

    @Select("select key, life::text as life from device where life is not null")
    List<LifeRow> lives();

    /** What was written since. */
    @Select("select key, life::text as life from device where life_written > #{since}")
    List<LifeRow> livesSince(@Param("since") Instant since);

    /** In an order that is the same for all, so that two nodes never wait for each other. */
    @Select("select key, life::text as life from device where key = any(#{keys}::text[]) order by key for update")
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<LifeRow> livesForUpdate(@Param("keys") String[] keys);

    @Update("""
            update device d
            set life_written = clock_timestamp(), life = u.life::jsonb, first_heard = u.first, last_heard = u.last, last_message = u.message
            from unnest(#{keys}::text[], #{lives}::text[], #{first}::timestamptz[], #{last}::timestamptz[],
                        #{messages}::uuid[]) as u(key, life, first, last, message)
            where d.key = any(#{keys}::text[]) and d.key = u.key
            """)
    void writeLives(
            @Param("keys") String[] keys,
            @Param("lives") String[] lives,
            @Param("first") Instant[] first,
            @Param("last") Instant[] last,
            @Param("messages") UUID[] messages);

    @Insert("""
            insert into device_facts
              (device, revision, model, facts, points, zone, installed, silent_after, channels, changed, changed_by)
            select key, revision, model, facts, points, zone, installed, silent_after, channels, #{at}, #{by}
            from device where key = #{key}
            """)
    void keepRevision(@Param("key") String key, @Param("at") Instant at, @Param("by") String by);

    @Insert("""
            insert into device (key, model, facts, points, zone, installed, silent_after, channels, simulated)
            values (#{key}, #{k.model}, #{facts}::jsonb, #{points}::jsonb, #{k.zone}, #{k.installed}, #{k.silentAfter},
                    #{channels}::jsonb, false)
            on conflict (key) do update
              set model = excluded.model, facts = excluded.facts, points = excluded.points, zone = excluded.zone,
                  installed = excluded.installed, silent_after = excluded.silent_after, channels = excluded.channels,
                  revision = device.revision + 1
            """)
    void change(
            @Param("key") String key,
            @Param("k") Device.Knowledge knowledge,
            @Param("facts") String facts,
            @Param("points") String points,
            @Param("channels") String channels);

    @Update("update device set barred = #{barred} where key = #{key}")
    int bar(@Param("key") String key, @Param("barred") boolean barred);

    @Update("update device set simulated = true where key = #{key}")
    void markSimulated(@Param("key") String key);

    @Delete("delete from device where key = #{key}")
    int forget(@Param("key") String key);

    /** So that a device which comes back goes on counting where it was: revisions tell what messages saw. */
    @Select("select coalesce(max(revision), 0) from device_facts where device = #{key}")
    int lastRevision(@Param("key") String key);

    @Update("update device set revision = #{revision} where key = #{key}")
    void setRevision(@Param("key") String key, @Param("revision") int revision);
}
