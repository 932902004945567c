package org.holtra.service.journal;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
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
    private final TransactionTemplate snapshot;

    BalanceSheet(BalanceMapper mapper, TallyWriter tallies, PlatformTransactionManager transactions) {
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
        return snapshot.execute(ignored -> draw(from, to));
    }

    private Balance draw(Instant from, Instant to) {
        Instant start = from.truncatedTo(ChronoUnit.MINUTES);
        Instant whole = to.truncatedTo(ChronoUnit.MINUTES);
        Instant end = whole.equals(to) ? whole : whole.plus(1, ChronoUnit.MINUTES);
        long acknowledged = mapper.acknowledged(start, end);
        Kept kept = mapper.kept(start, end);
        long difference = acknowledged - kept.read() - kept.unreadable() - kept.unclaimed() - kept.duplicates();
        Balance.Intake intake = new Balance.Intake(
                acknowledged,
                kept.read(),
                kept.unreadable(),
                kept.unclaimed(),
                kept.duplicates(),
                kept.untaken(),
                Math.max(0, -difference),
                Math.max(0, difference));
        List<Balance.Lane> lanes = mapper.lanes(start, end);
        long missing = intake.missing()
                + lanes.stream().mapToLong(lane -> Math.abs(lane.missing())).sum();
        return new Balance(start, end, intake, lanes, missing);
    }

    record Kept(long read, long unreadable, long unclaimed, long duplicates, long untaken) {}

    @Mapper
    interface BalanceMapper {

        @Select("""
                select coalesce(sum(count), 0) from tally
                where what = 'ACKNOWLEDGED' and minute >= #{from} and minute < #{to}
                """)
        long acknowledged(@Param("from") Instant from, @Param("to") Instant to);

        @Select("""
                select count(*) filter (where state = 'read') as read,
                       count(*) filter (where state = 'unreadable') as unreadable,
                       count(*) filter (where state = 'unclaimed') as unclaimed,
                       count(*) filter (where state = 'duplicate') as duplicates,
                       count(*) filter (where state = 'read' and lanes = '{}') as untaken
                from message where received >= #{from} and received < #{to}
                """)
        Kept kept(@Param("from") Instant from, @Param("to") Instant to);

        @Select("""
                with counted as (
                  select lane, count(*) as taken, 0 as delivered, 0 as dead, 0 as dropped, 0 as waiting
                  from message, unnest(lanes) as lane where received >= #{from} and received < #{to} group by lane
                  union all
                  select lane, 0, count(*) filter (where fate = 'delivered'), 0, count(*) filter (where fate = 'dropped'), 0
                  from outcome where received >= #{from} and received < #{to} and correction = 0 group by lane
                  union all
                  select lane, 0, 0, count(*), 0, 0
                  from dead_letter where received >= #{from} and received < #{to} and correction = 0 group by lane
                  union all
                  select lane, 0, 0, 0, 0, count(*)
                  from owed where received >= #{from} and received < #{to} and correction = 0 group by lane)
                select lane, sum(taken)::int8 as taken, sum(delivered)::int8 as delivered, sum(dead)::int8 as dead,
                       sum(dropped)::int8 as dropped, sum(waiting)::int8 as waiting,
                       sum(taken - delivered - dead - dropped - waiting)::int8 as missing
                from counted group by lane order by lane
                """)
        List<Balance.Lane> lanes(@Param("from") Instant from, @Param("to") Instant to);
    }
}
