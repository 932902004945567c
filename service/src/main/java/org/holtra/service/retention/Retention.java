package org.holtra.service.retention;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.holtra.service.balance.Acknowledgements;
import org.holtra.service.balance.Balance;
import org.holtra.service.balance.BalanceSheet;
import org.holtra.service.balance.Counts;
import org.holtra.service.journal.Days;
import org.holtra.service.settings.HoltraSettings;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Lets old data go, by dropping the tables of whole days, in a time that does not grow with what they hold. Messages that
 * are owed or dead still are moved aside first, and the balance of the day is written down.
 */
@Component
public class Retention {

    /** A table of a day on which nothing came takes no more. */
    private static final long EMPTY = 65_536;

    private static final Duration PART = Duration.ofMinutes(10);
    private static final int PARTS_OF_A_DAY = 144;

    /** Counts of a minute are asked for thirty days back, and for as long as there are messages to hold against them. */
    private static final int COUNTS_KEPT_DAYS = 31;

    /** Troubles that are over, jobs that have ended, and fields that nobody sends any more. */
    private static final int SMALL_THINGS_KEPT_DAYS = 90;

    /** Earlier revisions of a device's facts that are kept whatever their age. */
    private static final int FACTS_KEPT = 100;

    private static final Logger log = LoggerFactory.getLogger(Retention.class);

    /**
     * What is kept of one class of data.
     *
     * @param what {@code message}, {@code attempt} or {@code outcome}
     * @param days for which there is any
     * @param limit for so many days it is kept; 0 for ever
     * @param bytes on the database's disk
     * @param perDay bytes of a day, from the last whole days; of today so far where there is none
     * @param forecast bytes once it is as old as it gets, at this rate; null if it is kept for ever
     */
    public record Kept(String what, long days, int limit, long bytes, long perDay, Long forecast) {}

    record Table(String name, long bytes) {

        LocalDate day() {
            return Days.day(name);
        }
    }

    private final RetentionMapper mapper;
    private final Past past;
    private final TransactionTemplate transaction;
    private final InstantSource clock;
    private final Map<String, Integer> limits;

    /** What the balance is drawn from, and what is kept beside them. */
    @Component
    record Past(BalanceSheet sheet, Acknowledgements acknowledgements, Counts counts) {}

    Retention(
            RetentionMapper mapper,
            Past past,
            TransactionTemplate transaction,
            InstantSource clock,
            HoltraSettings settings) {
        this.mapper = mapper;
        this.past = past;
        this.transaction = transaction;
        this.clock = clock;
        this.limits = new TreeMap<>(Map.of(
                "message", settings.keepMessagesDays(),
                "attempt", settings.keepAttemptsDays(),
                "outcome", settings.keepMessagesDays()));
    }

    /** How much there is, and how much there will be. */
    public List<Kept> kept() {
        LocalDate today = LocalDate.ofInstant(clock.instant(), ZoneOffset.UTC);
        List<Kept> all = new ArrayList<>();
        limits.forEach((what, limit) -> {
            List<Table> tables = mapper.days(what).stream()
                    .filter(table -> !table.day().isAfter(today))
                    .toList();
            long bytes = tables.stream().mapToLong(Table::bytes).sum();
            List<Table> whole = tables.stream()
                    .filter(table -> table.day().isBefore(today)
                            && table.day().isAfter(today.minusDays(8))
                            && table.bytes() > EMPTY)
                    .toList();
            long perDay = whole.isEmpty()
                    ? tables.stream()
                            .filter(table -> table.day().equals(today))
                            .mapToLong(Table::bytes)
                            .sum()
                    : whole.stream().mapToLong(Table::bytes).sum() / whole.size();
            all.add(new Kept(
                    what,
                    tables.stream().filter(table -> table.bytes() > EMPTY).count(),
                    limit,
                    bytes,
                    perDay,
                    limit == 0 ? null : (Long) (perDay * limit)));
        });
        return all;
    }

    /** Drops the days that are older than they are kept. */
    public void drop() {
        LocalDate today = LocalDate.ofInstant(clock.instant(), ZoneOffset.UTC);
        limits.forEach((what, limit) -> {
            if (limit > 0) {
                mapper.days(what).stream()
                        .filter(table -> table.day().isBefore(today.minusDays(limit)))
                        .forEach(table -> drop(what, table));
            }
        });
        int limit = limits.get("message");
        if (limit > 0) {
            Instant until = Days.start(today.minusDays(limit));
            past.acknowledgements.forget(until);
            mapper.settleKept(until);
            mapper.forgetAttempts(until);
            mapper.forgetOutcomes(until);
        }
        forgetSmallThings(today);
    }

    /** What would grow for ever, and is of use for a while only. */
    private void forgetSmallThings(LocalDate today) {
        Instant counts = Days.start(today.minusDays(Math.max(COUNTS_KEPT_DAYS, limits.get("message"))));
        if (limits.get("message") > 0) {
            past.counts.forget(counts);
        }
        past.counts.sumUpTraffic(Days.start(today.minusDays(1)));
        Instant quarter = Days.start(today.minusDays(SMALL_THINGS_KEPT_DAYS));
        mapper.forgetTroubles(quarter);
        mapper.forgetJobs(quarter);
        mapper.forgetLogs(quarter);
        mapper.forgetFields(quarter);
        mapper.forgetDescriptions(quarter);
        mapper.forgetFacts(quarter, FACTS_KEPT);
    }

    private void drop(String what, Table table) {
        try {
            LocalDate day = table.day();
            if (what.equals("message")) {
                // By itself and a part at a time, since it takes the longer the more came on that day.
                writeDayBalance(day);
            }
            transaction.executeWithoutResult(status -> {
                // Whoever reads the tables now goes first; if that takes long, the day is dropped another time.
                mapper.waitBriefly();
                mapper.detach(what, table.name);
                mapper.detach(what, what + "_kept");
                mapper.attachKept(what, Days.start(day.plusDays(1)));
                if (what.equals("message")) {
                    int owed = mapper.keep(table.name, Days.start(day), Days.start(day.plusDays(1)));
                    if (owed > 0) {
                        log.info("{} messages of {} are owed or dead still, and are kept", owed, day);
                    }
                }
                mapper.drop(table.name);
            });
            log.info("Dropped {}", table.name);
        } catch (DataAccessException | TransactionException e) {
            log.warn("{} could not be dropped yet: {}", table.name, e.getMessage());
        }
    }

    private void writeDayBalance(LocalDate day) {
        Map<Entry, Long> sums = new TreeMap<>();
        for (int part = 0; part < PARTS_OF_A_DAY; part++) {
            Instant from = Days.start(day).plus(PART.multipliedBy(part));
            add(past.sheet.between(from, from.plus(PART)), sums);
        }
        sums.forEach((entry, count) -> mapper.addDayCount(day, entry.what, entry.name, count));
    }

    /** @param name of a lane; empty for what came in */
    private record Entry(String what, String name) implements Comparable<Entry> {
        @Override
        public int compareTo(Entry other) {
            int byName = name.compareTo(other.name);
            return byName == 0 ? what.compareTo(other.what) : byName;
        }
    }

    private static void add(Balance balance, Map<Entry, Long> sums) {
        Balance.Intake intake = balance.intake();
        Map<String, Long> counts = Map.ofEntries(
                Map.entry("acknowledged", intake.acknowledged()),
                Map.entry("read", intake.read()),
                Map.entry("unreadable", intake.unreadable()),
                Map.entry("unclaimed", intake.unclaimed()),
                Map.entry("deferred", intake.deferred()),
                Map.entry("duplicates", intake.duplicates()),
                Map.entry("ignored", intake.ignored()),
                Map.entry("whole", intake.whole()),
                Map.entry("parts", intake.parts()),
                Map.entry("unrouted", intake.unrouted()),
                Map.entry("missing", intake.missing()));
        counts.forEach((what, count) -> sums.merge(new Entry(what, ""), count, Long::sum));
        for (Balance.Lane lane : balance.lanes()) {
            Map<String, Long> ofLane = Map.of(
                    "taken", lane.taken(),
                    "delivered", lane.delivered(),
                    "dead", lane.dead(),
                    "dropped", lane.dropped(),
                    "owed", lane.waiting() + lane.inFlight() + lane.remembered(),
                    "held back", lane.heldBack(),
                    "merged", lane.merged());
            ofLane.forEach((what, count) -> sums.merge(new Entry(what, lane.lane()), count, Long::sum));
        }
    }

    /** The balance of days whose messages are gone, by day and count; those of lanes under their names. */
    public Map<LocalDate, Map<String, Long>> balances() {
        return mapper.balances().stream()
                .collect(Collectors.groupingBy(
                        RetentionMapper.DayCount::day,
                        TreeMap::new,
                        Collectors.toMap(
                                one -> one.name().isEmpty() ? one.what() : one.name() + " " + one.what(),
                                RetentionMapper.DayCount::count,
                                Long::sum,
                                TreeMap::new)));
    }

    @Mapper
    interface RetentionMapper {

        record DayCount(LocalDate day, String what, String name, long count) {}

        @Select("""
                select c.relname as name, pg_total_relation_size(c.oid) as bytes
                from pg_inherits i join pg_class c on c.oid = i.inhrelid join pg_class p on p.oid = i.inhparent
                where p.relname = #{what} and c.relname ~ '_[0-9]{8}$' order by c.relname
                """)
        List<Table> days(@Param("what") String what);

        @Update("set local lock_timeout = '2s'")
        void waitBriefly();

        /** Names cannot be bound as parameters in DDL; these come from the catalogue and from nowhere else. */
        @Update("alter table ${what} detach partition ${name}")
        void detach(@Param("what") String what, @Param("name") String name);

        @Insert("""
                insert into message select m.* from ${name} m where (m.received, m.id) in (
                  select received, message from owed where received >= #{from} and received < #{to}
                  union select received, message from remembered where received >= #{from} and received < #{to}
                  union select received, message from dead_letter where received >= #{from} and received < #{to})
                """)
        int keep(@Param("name") String name, @Param("from") Instant from, @Param("to") Instant to);

        @Update("drop table ${name}")
        void drop(@Param("name") String name);

        /** The table of what is kept takes what came before this instant. */
        @Update("alter table ${what} attach partition ${what}_kept for values from (minvalue) to ('${until}')")
        void attachKept(@Param("what") String what, @Param("until") Instant until);

        @Delete("""
                delete from trouble where cleared < #{before}
                """)
        void forgetTroubles(@Param("before") Instant before);

        @Delete("""
                delete from job u where ended < #{before}
                  and not exists (select 1 from dead_letter d where d.job = u.id)
                  and not exists (select 1 from incident i where u.id in (i.look, i.mend))
                """)
        void forgetJobs(@Param("before") Instant before);

        @Delete("delete from acknowledgement_log where at < #{before}")
        void forgetLogs(@Param("before") Instant before);

        /** But for those of fields that are sent. */
        @Delete("""
                delete from field_description d where told < #{before}
                  and not exists (select 1 from field_seen s where s.inlet = d.inlet and s.name = d.name)
                """)
        void forgetDescriptions(@Param("before") Instant before);

        @Delete("delete from field_seen where last_seen < #{before}")
        void forgetFields(@Param("before") Instant before);

        /** But for the newest ones of each device, and those that kept messages saw. */
        @Delete("""
                delete from device_facts f where f.changed < #{before}
                  and f.revision < (select d.revision from device d where d.key = f.device) - #{most}
                """)
        void forgetFacts(@Param("before") Instant before, @Param("most") int most);

        @Delete("""
                delete from message_kept m
                where m.received < #{until} and not exists (select 1 from owed o where o.message = m.id)
                  and not exists (select 1 from remembered r where r.message = m.id)
                  and not exists (select 1 from dead_letter d where d.message = m.id)
                """)
        int settleKept(@Param("until") Instant until);

        @Delete("delete from attempt_kept where at < #{until}")
        int forgetAttempts(@Param("until") Instant until);

        @Delete("delete from outcome_kept where at < #{until}")
        int forgetOutcomes(@Param("until") Instant until);

        @Insert("""
                insert into balance_day (day, what, name, count) values (#{day}, #{what}, #{name}, #{count})
                on conflict (day, what, name) do update set count = excluded.count
                """)
        void addDayCount(
                @Param("day") LocalDate day,
                @Param("what") String what,
                @Param("name") String name,
                @Param("count") long count);

        @Select("select day, what, name, count from balance_day order by day")
        List<DayCount> balances();
    }
}
