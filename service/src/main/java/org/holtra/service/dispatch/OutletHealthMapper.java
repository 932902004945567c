package org.holtra.service.dispatch;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.holtra.core.delivery.OutletHealth;

@Mapper
interface OutletHealthMapper {

    record Row(
            String outlet,
            String state,
            String reason,
            Instant since,
            Instant nextProbe,
            int probes,
            long stoppedMillis) {}

    record HeldRow(String outlet, String device, String reason, Instant since, Instant until) {}

    @Select("select outlet, device, reason, since, until from held_device")
    List<HeldRow> held();

    /** Those that an outlet holds now, and no others. */
    @Insert("""
            with gone as (delete from held_device where outlet = #{outlet} and device != all(#{devices}::text[]))
            insert into held_device (outlet, device, reason, since, until)
            select #{outlet}, * from unnest(#{devices}::text[], #{reasons}::text[], #{since}::timestamptz[],
                                            #{until}::timestamptz[])
            on conflict (outlet, device) do update set reason = excluded.reason, until = excluded.until
            """)
    void replaceHeld(
            @Param("outlet") String outlet,
            @Param("devices") String[] devices,
            @Param("reasons") String[] reasons,
            @Param("since") Instant[] since,
            @Param("until") Instant[] until);

    @Select("""
            select outlet, state, reason, since, next_probe, probes, stopped_millis from outlet_health
            where outlet = #{outlet}
            """)
    Optional<Row> find(@Param("outlet") String outlet);

    @Select("select outlet, state, reason, since, next_probe, probes, stopped_millis from outlet_health")
    List<Row> all();

    /** States, a column each. */
    record Columns(
            String[] state,
            String[] reason,
            Instant[] since,
            Instant[] nextProbe,
            Integer[] probes,
            Long[] stoppedMillis) {

        static Columns of(List<OutletHealth> states) {
            return new Columns(
                    states.stream().map(one -> one.state().name()).toArray(String[]::new),
                    states.stream().map(OutletHealth::reason).toArray(String[]::new),
                    states.stream().map(OutletHealth::since).toArray(Instant[]::new),
                    states.stream().map(OutletHealth::nextProbe).toArray(Instant[]::new),
                    states.stream().map(OutletHealth::probes).toArray(Integer[]::new),
                    states.stream().map(one -> one.stopped().toMillis()).toArray(Long[]::new));
        }
    }

    @Insert("""
            insert into outlet_health (outlet, state, reason, since, next_probe, probes, stopped_millis)
            select * from unnest(#{outlets}::text[], #{c.state}::text[], #{c.reason}::text[], #{c.since}::timestamptz[],
                                 #{c.nextProbe}::timestamptz[], #{c.probes}::int4[], #{c.stoppedMillis}::int8[])
            on conflict (outlet) do update set state = excluded.state, reason = excluded.reason, since = excluded.since,
              next_probe = excluded.next_probe, probes = excluded.probes, stopped_millis = excluded.stopped_millis
            """)
    void save(@Param("outlets") String[] outlets, @Param("c") Columns columns);
}
