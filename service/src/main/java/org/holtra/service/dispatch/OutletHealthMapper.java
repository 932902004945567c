package org.holtra.service.dispatch;

import java.time.Instant;
import java.util.List;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;

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

    @Select("select outlet, state, reason, since, next_probe, probes, stopped_millis from outlet_health")
    List<Row> all();

    @Insert("""
            insert into outlet_health (outlet, state, reason, since, next_probe, probes, stopped_millis)
            values (#{r.outlet}, #{r.state}, #{r.reason}, #{r.since}, #{r.nextProbe}, #{r.probes}, #{r.stoppedMillis})
            on conflict (outlet) do update set state = excluded.state, reason = excluded.reason, since = excluded.since,
              next_probe = excluded.next_probe, probes = excluded.probes, stopped_millis = excluded.stopped_millis
            """)
    void save(@Param("r") Row row);
}
