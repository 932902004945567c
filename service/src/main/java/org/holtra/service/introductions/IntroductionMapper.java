package org.holtra.service.introductions;

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
interface IntroductionMapper {

    String COLUMNS = """
            outlet, device, state, step, name, there_id, kept, secret, existed, creating, anew, version, why, reason, since,
            next_at, attempts, revision, asked_by, job
            """;

    record Row(
            String outlet,
            String device,
            String state,
            String step,
            String name,
            String thereId,
            String kept,
            byte[] secret,
            boolean existed,
            boolean creating,
            boolean anew,
            long version,
            String why,
            String reason,
            Instant since,
            Instant nextAt,
            int attempts,
            int revision,
            String askedBy,
            UUID job) {}

    record Count(String state, String why, boolean existed, long count) {}

    @Select("select " + COLUMNS + " from introduction")
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<Row> all();

    @Select("select " + COLUMNS + " from introduction where outlet = #{outlet} and device = any(#{devices}::text[])")
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<Row> find(@Param("outlet") String outlet, @Param("devices") String[] devices);

    /** Those that are not there yet; what was refused is tried again, and what a person had in hand moves by itself. */
    @Insert("""
            insert into introduction (outlet, device, state, since, next_at, asked_by, job)
            select #{outlet}, device, 'waiting', #{now}, #{now}, #{by}, #{job} from unnest(#{devices}::text[]) as d(device)
            order by device
            on conflict (outlet, device) do update
              set state = 'waiting', since = #{now}, next_at = #{now}, attempts = 0, why = null, reason = null,
                  step = nullif(introduction.step, 'remove'),
                  asked_by = excluded.asked_by, job = excluded.job, anew = false
              where #{again}
                and (introduction.state = 'refused'
                     or introduction.state in ('waiting', 'introducing')
                        and introduction.next_at = timestamptz '9999-01-01Z')
            """)
    int ask(
            @Param("outlet") String outlet,
            @Param("devices") String[] devices,
            @Param("by") String by,
            @Param("job") UUID job,
            @Param("again") boolean again,
            @Param("now") Instant now);

    @Insert("""
            insert into introduction (outlet, device, state, name, there_id, existed, since, next_at, asked_by)
            values (#{outlet}, #{device}, 'known', #{device}, #{id}, true, #{now}, timestamptz '9999-01-01Z', #{by})
            on conflict (outlet, device) do update
              set state = 'known', there_id = excluded.there_id, name = coalesce(introduction.name, excluded.name),
                  existed = true, since = excluded.since, next_at = excluded.next_at, step = null, why = null, reason = null
              where introduction.state in ('waiting', 'refused')
            """)
    int existed(
            @Param("outlet") String outlet,
            @Param("device") String device,
            @Param("id") String id,
            @Param("by") String by,
            @Param("now") Instant now);

    /** Those whose turn it is; what was refused for all devices alike is tried again. */
    @Select("select " + COLUMNS + """
             from introduction
            where outlet = #{outlet} and next_at <= #{now}
              and state in ('waiting', 'introducing', 'removing', 'refused')
              and #{removals} = (state = 'removing' or coalesce(step, '') = 'remove' and state != 'introducing')
            order by next_at, device limit #{limit}
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<Row> due(
            @Param("outlet") String outlet,
            @Param("removals") boolean removals,
            @Param("now") Instant now,
            @Param("limit") int limit);

    @Select("""
            select reason from introduction
            where job = #{job} and reason is not null and next_at < timestamptz '9999-01-01Z'
            order by next_at desc limit 1
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    String hindrance(@Param("job") UUID job);

    /** Of what may have been created there, nothing is forgotten. */
    @Select("""
            delete from introduction i
            where outlet = #{outlet} and device = any(#{devices}::text[]) and state in ('waiting', 'refused')
              and not creating and there_id is null
              and not exists (select 1 from made_there m
                              where m.outlet = i.outlet and m.device = i.device and m.removed is null)
            returning device
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<String> withdraw(@Param("outlet") String outlet, @Param("devices") String[] devices);

    /**
     * Each as long as it is at the version that the writer saw. No device stands in it twice.
     *
     * @return outlet and device of those that were written, with a space between
     */
    @Select("""
            update introduction i
            set state = w.state, step = w.step, name = w.name, there_id = w.there_id, kept = w.kept, secret = w.secret,
                existed = w.existed, creating = w.creating, anew = w.anew, why = w.why, reason = w.reason, since = w.since,
                next_at = w.next_at, attempts = w.attempts, revision = w.revision
            from unnest(
              #{c.outlet}::text[], #{c.device}::text[], #{c.state}::text[], #{c.step}::text[], #{c.name}::text[],
              #{c.thereId}::text[], #{c.kept}::text[], #{c.secret}::bytea[], #{c.existed}::boolean[],
              #{c.creating}::boolean[], #{c.anew}::boolean[], #{c.version}::bigint[], #{c.why}::text[],
              #{c.reason}::text[], #{c.since}::timestamptz[], #{c.nextAt}::timestamptz[], #{c.attempts}::integer[],
              #{c.revision}::integer[])
              as w(outlet, device, state, step, name, there_id, kept, secret, existed, creating, anew, version, why,
                   reason, since, next_at, attempts, revision)
            where i.outlet = w.outlet and i.device = w.device and i.version = w.version
            returning i.outlet || ' ' || i.device
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<String> write(@Param("c") IntroductionColumns columns);

    /** The destination does not know it any longer: it is introduced once more, or, if that was done, it is refused. */
    @Update("""
            update introduction
            set state = case when anew then 'refused' else 'waiting' end, step = null,
                why = case when anew then 'gone there' end,
                reason = case when anew then 'introduced once more, and still: ' || #{reason} end,
                there_id = null, kept = '{}', secret = null, existed = false, creating = false, anew = true,
                version = version + 1, since = #{now}, attempts = 0,
                next_at = case when anew then timestamptz '9999-01-01Z' else #{now} end
            where outlet = #{outlet} and device = #{device} and version = #{version} and state = 'known'
            """)
    int gone(
            @Param("outlet") String outlet,
            @Param("device") String device,
            @Param("version") long version,
            @Param("reason") String reason,
            @Param("now") Instant now);

    @Update(
            "update introduction set anew = false where outlet = #{outlet} and device = #{device} and version = #{version}")
    int delivered(@Param("outlet") String outlet, @Param("device") String device, @Param("version") long version);

    /** Those that may be tried again since something was mended. */
    @Select("""
            update introduction set state = 'waiting', next_at = #{now}, since = #{now}, attempts = 0
            where outlet = #{outlet} and state = 'refused' and why <> 'gone there'
            returning device
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<String> again(@Param("outlet") String outlet, @Param("now") Instant now);

    @Select("""
            update introduction
            set state = 'removing', step = 'remove', since = #{now}, next_at = #{now}, attempts = 0, why = null,
                reason = null, asked_by = #{by}, job = #{job}, version = version + 1
            where outlet = #{outlet} and device = any(#{devices}::text[]) and state <> 'removing'
            returning device
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<String> remove(
            @Param("outlet") String outlet,
            @Param("devices") String[] devices,
            @Param("by") String by,
            @Param("job") UUID job,
            @Param("now") Instant now);

    @Update("""
            update introduction
            set next_at = timestamptz '9999-01-01Z',
                step = case when state = 'refused' then nullif(step, 'remove') else step end,
                attempts = case when state = 'refused' then 0 else attempts end,
                state = case when state = 'refused' then 'waiting' else state end
            where outlet = #{outlet} and device = #{device} and state in ('waiting', 'introducing', 'refused')
            """)
    int hold(@Param("outlet") String outlet, @Param("device") String device);

    @Delete("delete from introduction where outlet = #{outlet} and device = any(#{devices}::text[])")
    int forget(@Param("outlet") String outlet, @Param("devices") String[] devices);

    @Select("select " + COLUMNS + """
             from introduction
            where outlet = #{outlet} and device > #{after} and (#{state}::text is null or state = #{state})
            order by device limit #{limit}
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<Row> list(
            @Param("outlet") String outlet,
            @Param("after") String after,
            @Param("state") String state,
            @Param("limit") int limit);

    @Select("""
            select state, why, existed, count(*) as count from introduction
            where (#{outlet}::text is null or outlet = #{outlet}) and (#{job}::uuid is null or job = #{job})
            group by 1, 2, 3
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    List<Count> counts(@Param("outlet") String outlet, @Param("job") UUID job);
}
