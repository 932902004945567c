package org.holtra.service.lookouts;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.holtra.core.setup.Setup;
import org.holtra.service.setups.Setups;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;

/**
 * Since when somebody listens at each inlet. While no node runs, the database is away or the inlet is closed nobody does,
 * and that nothing is heard then says nothing of the devices.
 */
@Component
public class Listening {

    /** A time in which nobody listened. */
    public record Deaf(String inlet, Instant since, Instant until) {}

    /** How often a node says that it listens. */
    public static final Duration EACH = Duration.ofSeconds(2);

    /** Nobody has said so for longer: nobody did. */
    private static final Duration BREAK = Duration.ofSeconds(10);

    private static final Duration KEPT = Duration.ofDays(90);
    private static final Logger log = LoggerFactory.getLogger(Listening.class);

    private final ListeningMapper mapper;
    private final Setups setups;
    private final InstantSource clock;

    Listening(ListeningMapper mapper, Setups setups, InstantSource clock) {
        this.mapper = mapper;
        this.setups = setups;
        this.clock = clock;
    }

    /** Called every so often: this node listens at the inlets that are open. */
    public void say() {
        Setup setup = setups.current();
        String[] inlets = setup.inlets().values().stream()
                .filter(inlet -> !inlet.closed())
                .map(inlet -> inlet.name())
                .toArray(String[]::new);
        if (inlets.length == 0) {
            return;
        }
        Instant now = clock.instant();
        try {
            mapper.listens(inlets, now, now.minus(BREAK));
        } catch (DataAccessException e) {
            log.debug("That this node listens could not be written: {}", e.getMessage());
        }
    }

    /** Up to when it is known that somebody listened at all of these inlets; empty if it is not known of one. */
    public Optional<Instant> heardUpTo(Set<String> inlets) {
        return Optional.ofNullable(mapper.upTo(inlets.toArray(String[]::new)));
    }

    /** When nobody listened at one of these inlets, the earliest first. */
    public List<Deaf> deaf(Set<String> inlets, Instant from, Instant to) {
        return mapper.deaf(inlets.toArray(String[]::new), from, to);
    }

    public void forget() {
        mapper.forget(clock.instant().minus(KEPT));
    }

    @Mapper
    interface ListeningMapper {

        @Select("""
                with before as (
                  select inlet, at from listening where inlet = any(#{inlets}::text[]) order by inlet for update),
                gaps as (
                  insert into deaf (inlet, since, until) select inlet, at, #{now} from before where at < #{broken}
                  on conflict do nothing returning inlet),
                said as (
                  insert into listening (inlet, at) select inlet, #{now} from unnest(#{inlets}::text[]) as i(inlet)
                  on conflict (inlet) do update set at = greatest(listening.at, excluded.at) returning inlet)
                select count(*) from gaps, said
                """)
        @Options(flushCache = FlushCachePolicy.TRUE)
        int listens(@Param("inlets") String[] inlets, @Param("now") Instant now, @Param("broken") Instant broken);

        /** Null if one of them is not known. */
        @Select("""
                select case when count(l.inlet) = count(*) then min(l.at) end
                from unnest(#{inlets}::text[]) as i(inlet) left join listening l on l.inlet = i.inlet
                """)
        @Options(flushCache = FlushCachePolicy.TRUE)
        Instant upTo(@Param("inlets") String[] inlets);

        @Select("""
                select inlet, since, until from deaf
                where inlet = any(#{inlets}::text[]) and since < #{to} and until > #{from} order by until
                """)
        @Options(flushCache = FlushCachePolicy.TRUE)
        List<Deaf> deaf(@Param("inlets") String[] inlets, @Param("from") Instant from, @Param("to") Instant to);

        @Delete("delete from deaf where until < #{before}")
        int forget(@Param("before") Instant before);
    }
}
