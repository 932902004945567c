package org.holtra.service.dispatch;

import java.time.Instant;
import java.time.LocalDate;
import java.util.Optional;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.holtra.core.delivery.Pace;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/** Grants leave to send by outlets' paces and quotas, to all nodes from one account that outlives them. */
@Component
public class PaceStore {

    private final PaceMapper mapper;
    private final TransactionTemplate transaction;

    PaceStore(PaceMapper mapper, TransactionTemplate transaction) {
        this.mapper = mapper;
        this.transaction = transaction;
    }

    Pace.Grant take(String outlet, Pace pace, Instant now) {
        return transaction.execute(status -> {
            mapper.open(outlet, row(Pace.Used.nothing(now)));
            Pace.Grant grant = pace.grant(used(mapper.lock(outlet)), now);
            mapper.write(outlet, row(grant.used()));
            return grant;
        });
    }

    /** What has been granted so far; empty if nothing was ever asked. */
    public Optional<Pace.Used> used(String outlet) {
        return mapper.find(outlet).map(PaceStore::used);
    }

    private static Pace.Used used(PaceMapper.Row row) {
        return new Pace.Used(row.free(), row.day(), row.ofDay(), row.ofMonth());
    }

    private static PaceMapper.Row row(Pace.Used used) {
        return new PaceMapper.Row(used.free(), used.day(), used.ofDay(), used.ofMonth());
    }

    @Mapper
    interface PaceMapper {

        record Row(Instant free, LocalDate day, long ofDay, long ofMonth) {}

        @Insert("""
                insert into outlet_pace (outlet, free, day, of_day, of_month)
                values (#{outlet}, #{r.free}, #{r.day}, #{r.ofDay}, #{r.ofMonth}) on conflict (outlet) do nothing
                """)
        void open(@Param("outlet") String outlet, @Param("r") Row row);

        @Select("select free, day, of_day, of_month from outlet_pace where outlet = #{outlet} for update")
        Row lock(@Param("outlet") String outlet);

        @Select("select free, day, of_day, of_month from outlet_pace where outlet = #{outlet}")
        Optional<Row> find(@Param("outlet") String outlet);

        @Update("""
                update outlet_pace set free = #{r.free}, day = #{r.day}, of_day = #{r.ofDay}, of_month = #{r.ofMonth}
                where outlet = #{outlet}
                """)
        void write(@Param("outlet") String outlet, @Param("r") Row row);
    }
}
