package org.holtra.service.balance;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.springframework.stereotype.Component;

/** What waits in the nodes' spools, and how much disk and memory each has left, as it told the last time it could. */
@Component
public class SpoolReports {

    /**
     * @param most bytes it may take
     * @param trouble why it takes nothing more; null if it does
     * @param diskFree bytes
     * @param heapPercent of its heap that is in use after a full collection; 0 before the first
     * @param here whether a node of this name is at work
     */
    public record Report(
            String node,
            long messages,
            long bytes,
            long most,
            Instant oldest,
            String trouble,
            long diskFree,
            int heapPercent,
            Instant at,
            boolean here) {}

    private final SpoolReportMapper mapper;

    SpoolReports(SpoolReportMapper mapper) {
        this.mapper = mapper;
    }

    /** @param minutes how many of those that wait came in which minute */
    public void write(Report report, Map<Instant, Long> minutes) {
        mapper.save(report);
        mapper.saveMinutes(
                report.node,
                minutes.keySet().toArray(Instant[]::new),
                minutes.values().toArray(Long[]::new));
    }

    public List<Report> all() {
        return mapper.all();
    }

    @Mapper
    interface SpoolReportMapper {

        @Insert("""
                insert into spool_report (node, messages, bytes, most, oldest, trouble, disk_free, heap_percent, at)
                values (#{r.node}, #{r.messages}, #{r.bytes}, #{r.most}, #{r.oldest}, #{r.trouble}, #{r.diskFree},
                  #{r.heapPercent}, #{r.at})
                on conflict (node) do update set messages = excluded.messages, bytes = excluded.bytes,
                  most = excluded.most, oldest = excluded.oldest, trouble = excluded.trouble,
                  disk_free = excluded.disk_free, heap_percent = excluded.heap_percent, at = excluded.at
                """)
        void save(@Param("r") Report report);

        @Insert("""
                with gone as (delete from spool_minute where node = #{node} and minute != all(#{minutes}::timestamptz[]))
                insert into spool_minute (node, minute, messages)
                select #{node}, * from unnest(#{minutes}::timestamptz[], #{counts}::int8[])
                on conflict (node, minute) do update set messages = excluded.messages
                """)
        void saveMinutes(
                @Param("node") String node, @Param("minutes") Instant[] minutes, @Param("counts") Long[] counts);

        @Select("""
                select r.node, r.messages, r.bytes, r.most, r.oldest, r.trouble, r.disk_free, r.heap_percent, r.at,
                       exists (select 1 from node n where n.name = r.node) as here
                from spool_report r order by r.node
                """)
        List<Report> all();
    }
}
