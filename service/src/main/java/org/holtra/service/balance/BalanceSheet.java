package org.holtra.service.balance;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.springframework.stereotype.Component;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.TransactionDefinition;
import org.springframework.transaction.support.TransactionTemplate;

/** Draws up the balance, from one snapshot of the database. */
@Component
public class BalanceSheet {

    private final BalanceMapper mapper;
    private final TallyWriter tallies;
    private final Acknowledgements acknowledgements;
    private final TransactionTemplate snapshot;

    BalanceSheet(
            BalanceMapper mapper,
            TallyWriter tallies,
            Acknowledgements acknowledgements,
            PlatformTransactionManager transactions) {
        this.acknowledgements = acknowledgements;
        this.mapper = mapper;
        this.tallies = tallies;
        snapshot = new TransactionTemplate(transactions);
        snapshot.setIsolationLevel(TransactionDefinition.ISOLATION_REPEATABLE_READ);
        snapshot.setReadOnly(true);
    }

    /**
     * The window is widened to whole minutes, since acknowledgements are counted by the minute. What this node has
     * counted so far is written first, so that it is not a second behind the tables.
     */
    public Balance between(Instant from, Instant to) {
        tallies.write();
        acknowledgements.write();
        return snapshot.execute(ignored -> draw(from, to));
    }

    private Balance draw(Instant from, Instant to) {
        Instant first = mapper.firstDay();
        Instant asked = from.truncatedTo(ChronoUnit.MINUTES);
        // What came before has left; its balance stands by itself.
        Instant start = first != null && asked.isBefore(first) ? first : asked;
        Instant whole = to.truncatedTo(ChronoUnit.MINUTES);
        Instant end = whole.equals(to) ? whole : whole.plus(1, ChronoUnit.MINUTES);
        long acknowledged = mapper.counted(Tally.What.ACKNOWLEDGED.name(), start, end);
        long ignored = mapper.counted(Tally.What.IGNORED.name(), start, end);
        Kept kept = mapper.kept(start, end);
        long spooled = mapper.spooled(start, end);
        long difference = acknowledged
                + kept.parts()
                - kept.whole()
                - kept.read()
                - kept.unreadable()
                - kept.unclaimed()
                - kept.deferred()
                - kept.duplicates()
                - ignored
                - spooled;
        Balance.Intake intake = new Balance.Intake(
                acknowledged,
                kept.read(),
                kept.unreadable(),
                kept.unclaimed(),
                kept.deferred(),
                kept.duplicates(),
                ignored,
                spooled,
                kept.whole(),
                kept.parts(),
                kept.unrouted(),
                Math.max(0, -difference),
                Math.max(0, difference));
        List<Balance.Lane> lanes = mapper.lanes(start, end);
        long missing = intake.missing()
                + lanes.stream().mapToLong(lane -> Math.abs(lane.missing())).sum();
        return new Balance(start, end, intake, lanes, missing);
    }

    /** The messages for which a window does not balance, with what is wrong; at most a thousand. */
    public List<Balance.Difference> differences(Instant from, Instant to) {
        tallies.write();
        acknowledgements.write();
        return snapshot.execute(ignored -> {
            List<Balance.Difference> found = new ArrayList<>(mapper.unkept(from, to));
            found.addAll(mapper.unsettled(from, to));
            return found;
        });
    }

    record Kept(
            long read,
            long unreadable,
            long unclaimed,
            long deferred,
            long duplicates,
            long whole,
            long parts,
            long unrouted) {}

    @Mapper
    interface BalanceMapper {

        @Select("""
                select coalesce(sum(count), 0) from tally
                where what = #{what} and minute >= #{from} and minute < #{to}
                """)
        long counted(@Param("what") String what, @Param("from") Instant from, @Param("to") Instant to);

        /** A state that a newer version writes counts as deferred: the message is there, and waits for that version. */
        @Select("""
                select count(*) filter (where state = 'read') as read,
                       count(*) filter (where state = 'unreadable') as unreadable,
                       count(*) filter (where state = 'unclaimed') as unclaimed,
                       count(*) filter (where state not in ('read', 'unreadable', 'unclaimed', 'duplicate', 'trial', 'made',
                                                               'whole'))
                         as deferred,
                       count(*) filter (where state = 'duplicate') as duplicates,
                       count(*) filter (where state = 'whole') as whole,
                       coalesce(sum(parts) filter (where state = 'whole'), 0) as parts,
                       count(*) filter (where state = 'read' and lanes = '{}') as unrouted
                from message where received >= #{from} and received < #{to}
                """)
        Kept kept(@Param("from") Instant from, @Param("to") Instant to);

        @Select("""
                with parts as (
                  select lane, into_message, count(*) as n from outcome
                  where received >= #{from} and received < #{to} and correction = 0 and replay is null and fate = 'merged'
                  group by lane, into_message),
                counted as (
                  select lane, count(*) as taken, 0 as delivered, 0 as dead, 0 as dropped, 0 as waiting, 0 as in_flight,
                         0 as held_back, 0 as merged, 0 as remembered
                  from message, unnest(lanes) as lane where received >= #{from} and received < #{to} group by lane
                  union all
                  select lane, 0, count(*) filter (where fate = 'delivered'), 0, count(*) filter (where fate = 'dropped'), 0, 0,
                         count(*) filter (where fate = 'held back'), count(*) filter (where fate = 'split'), 0
                  from outcome where received >= #{from} and received < #{to} and correction = 0 and replay is null group by lane
                  union all
                  select p.lane, 0, 0, 0, 0, 0, 0, 0, sum(p.n)::int8, 0 from parts p
                  where exists (select 1 from message m where m.received = uuid_time(p.into_message) and m.id = p.into_message)
                     or exists (select 1 from memory y where y.making = p.into_message)
                  group by p.lane
                  union all
                  select lane, 0, 0, count(*) filter (where dropped_until is null),
                         count(*) filter (where dropped_until is not null), 0, 0, 0, 0, 0
                  from dead_letter where received >= #{from} and received < #{to} and correction = 0 and replay is null group by lane
                  union all
                  select lane, 0, 0, 0, 0, count(*) filter (where owner is null), count(*) filter (where owner is not null), 0, 0, 0
                  from owed where received >= #{from} and received < #{to} and correction = 0 and replay is null group by lane
                  union all
                  select lane, 0, 0, 0, 0, 0, 0, 0, 0, count(*)
                  from remembered where received >= #{from} and received < #{to} and lane not like 'lookout/%' group by lane)
                select lane, sum(taken)::int8 as taken, sum(delivered)::int8 as delivered, sum(dead)::int8 as dead,
                       sum(dropped)::int8 as dropped, sum(waiting)::int8 as waiting,
                       sum(in_flight)::int8 as in_flight, sum(held_back)::int8 as held_back, sum(merged)::int8 as merged,
                       sum(remembered)::int8 as remembered,
                       sum(taken - delivered - dead - dropped - waiting - in_flight - held_back - merged - remembered)::int8
                         as missing
                from counted group by lane order by lane
                """)
        List<Balance.Lane> lanes(@Param("from") Instant from, @Param("to") Instant to);

        /** Null if there is no day's table. */
        @Select("""
                select min(to_date(right(c.relname, 8), 'YYYYMMDD'))::timestamp at time zone 'UTC'
                from pg_inherits i join pg_class c on c.oid = i.inhrelid join pg_class p on p.oid = i.inhparent
                where p.relname = 'message' and c.relname ~ '_[0-9]{8}$'
                """)
        Instant firstDay();

        @Select("""
                select coalesce(sum(messages), 0) from spool_minute where minute >= #{from} and minute < #{to}
                """)
        long spooled(@Param("from") Instant from, @Param("to") Instant to);

        /** Those that were acknowledged and are not there; while anything is spooled they may be on their way. */
        @Select("""
                with told as (
                  select encode(substring(a.ids from n * 16 + 1 for 16), 'hex')::uuid as id
                  from acknowledged a, generate_series(0, length(a.ids) / 16 - 1) n
                  where a.minute >= date_trunc('minute', #{from}::timestamptz) and a.minute < #{to})
                select t.id as message,
                       to_timestamp(('x' || substr(replace(t.id::text, '-', ''), 1, 12))::bit(48)::bigint / 1000.0)
                         as received,
                       null::text as lane,
                       case when exists (select 1 from spool_minute)
                         then 'acknowledged; not in the journal, and may wait in a spool'
                         else 'acknowledged, and not in the journal' end as what
                from told t where not exists (
                  select 1 from message m where m.id = t.id
                    and m.received >= #{from}::timestamptz - interval '1 minute' and m.received < #{to}::timestamptz)
                limit 500
                """)
        List<Balance.Difference> unkept(@Param("from") Instant from, @Param("to") Instant to);

        @Select("""
                with fates as (
                  select message, lane, count(*) as n from (
                    select message, lane, point from outcome o
                      where received >= #{from} and received < #{to} and correction = 0 and replay is null
                        and (fate != 'merged'
                          or exists (select 1 from message m where m.received = uuid_time(o.into_message) and m.id = o.into_message)
                          or exists (select 1 from memory y where y.making = o.into_message))
                    union all
                    select message, lane, point from dead_letter
                      where received >= #{from} and received < #{to} and correction = 0 and replay is null
                    union all
                    select message, lane, point from owed
                      where received >= #{from} and received < #{to} and correction = 0 and replay is null
                    union all
                    select message, lane, null from remembered
                      where received >= #{from} and received < #{to} and lane not like 'lookout/%') f
                  group by message, lane),
                taken as (
                  select id as message, received, lane, count(*) as n from message, unnest(lanes) as lane
                  where received >= #{from} and received < #{to} group by id, received, lane)
                select t.message, t.received, t.lane,
                       case when coalesce(f.n, 0) < t.n then 'taken, and without a fate' else 'more than one fate' end
                         as what
                from taken t left join fates f on f.message = t.message and f.lane = t.lane
                where coalesce(f.n, 0) != t.n
                limit 500
                """)
        List<Balance.Difference> unsettled(@Param("from") Instant from, @Param("to") Instant to);
    }
}
