package org.holtra.service.journal;

import java.time.Instant;
import java.time.InstantSource;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.List;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.springframework.stereotype.Component;

/**
 * Keeps the daily tables ready, some days ahead and without a gap. Days are those of UTC. What came before the first of them
 * has a table of its own, for all the time before.
 */
@Component
public class Days {

    static final List<String> TABLES = List.of("message", "attempt", "outcome");

    private static final DateTimeFormatter NAME = DateTimeFormatter.BASIC_ISO_DATE;
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
        LocalDate today = today();
        for (String table : TABLES) {
            prepare(table, today);
        }
    }

    private LocalDate today() {
        return LocalDate.ofInstant(clock.instant(), ZoneOffset.UTC);
    }

    /** Days on which nothing ran get theirs too: what is made later may belong to them. */
    private void prepare(String table, LocalDate today) {
        LocalDate end = today.plusDays(AHEAD);
        List<LocalDate> there = mapper.days(table).stream().map(Days::day).toList();
        LocalDate from = there.stream()
                .filter(day -> !day.isAfter(today))
                .max(LocalDate::compareTo)
                .map(day -> day.plusDays(1))
                .orElse(today.minusDays(BEHIND));
        for (LocalDate day = from; !day.isAfter(end); day = day.plusDays(1)) {
            if (!there.contains(day)) {
                create(table, day);
            }
        }
    }

    /**
     * Makes the tables of days to come for what is stamped ahead of its time: the message that a lane is making of an interval
     * that is closed before its end. Within the caller's transaction.
     */
    void ensure(List<Instant> stamps) {
        LocalDate ready = today().plusDays(AHEAD - 1L);
        stamps.stream()
                .map(stamp -> LocalDate.ofInstant(stamp, ZoneOffset.UTC))
                .filter(day -> day.isAfter(ready))
                .distinct()
                .forEach(day -> TABLES.forEach(table -> create(table, day)));
    }

    private void create(String table, LocalDate day) {
        mapper.create(table, name(table, day), start(day), start(day.plusDays(1)));
    }

    static String name(String table, LocalDate day) {
        return table + "_" + NAME.format(day);
    }

    /** The day of a table. */
    public static LocalDate day(String name) {
        return LocalDate.parse(name.substring(name.lastIndexOf('_') + 1), NAME);
    }

    public static Instant start(LocalDate day) {
        return day.atStartOfDay(ZoneOffset.UTC).toInstant();
    }

    @Mapper
    interface DayMapper {

        @Select("""
                select c.relname from pg_inherits i
                join pg_class c on c.oid = i.inhrelid join pg_class p on p.oid = i.inhparent
                where p.relname = #{table} and c.relname ~ '_[0-9]{8}$' order by c.relname
                """)
        List<String> days(@Param("table") String table);

        /** Names and bounds cannot be bound as parameters in DDL; they are made of dates here and of nothing else. */
        @Update("create table if not exists ${name} partition of ${table} for values from ('${from}') to ('${to}')")
        void create(
                @Param("table") String table,
                @Param("name") String name,
                @Param("from") Instant from,
                @Param("to") Instant to);
    }
}
