package org.holtra.service.journal;

import java.time.Instant;
import java.time.InstantSource;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.List;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Update;
import org.springframework.stereotype.Component;

/** Keeps the daily tables ready, some days ahead. Days are those of UTC. */
@Component
public class Days {

    private static final List<String> TABLES = List.of("message", "attempt", "outcome");
    private static final int AHEAD = 3;
    /** Clocks of nodes differ, and a day's first message may come from one that is behind. */
    private static final int BEHIND = 1;

    private final DayMapper mapper;
    private final InstantSource clock;

    Days(DayMapper mapper, InstantSource clock) {
        this.mapper = mapper;
        this.clock = clock;
    }

    public void prepare() {
        LocalDate today = LocalDate.ofInstant(clock.instant(), ZoneOffset.UTC);
        for (LocalDate day = today.minusDays(BEHIND); !day.isAfter(today.plusDays(AHEAD)); day = day.plusDays(1)) {
            for (String table : TABLES) {
                create(table, day);
            }
        }
    }

    private void create(String table, LocalDate day) {
        mapper.create(table, table + "_" + day.toString().replace("-", ""), start(day), start(day.plusDays(1)));
    }

    private static Instant start(LocalDate day) {
        return day.atStartOfDay(ZoneOffset.UTC).toInstant().truncatedTo(ChronoUnit.SECONDS);
    }

    @Mapper
    interface DayMapper {

        /** Names and bounds cannot be bound as parameters in DDL; they are made of dates here and of nothing else. */
        @Update("create table if not exists ${name} partition of ${table} for values from ('${from}') to ('${to}')")
        void create(
                @Param("table") String table,
                @Param("name") String name,
                @Param("from") Instant from,
                @Param("to") Instant to);
    }
}
