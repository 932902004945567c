package org.holtra.service.history;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.ResultMap;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.session.ResultHandler;
import org.holtra.service.journal.sql.MessageRow;

/** Messages of the past: searched, listed and counted. */
@Mapper
interface MessageHistoryMapper {

    /** Messages come from the database so many at a time, within a transaction: each may be large. */
    int AT_A_TIME = 20;

    /** Ends the look for the newest messages that a table of deliveries names. */
    String NEWEST_ASKED_FOR = """
            where received &gt;= #{q.from} and received &lt; #{q.to}
            <if test="q.before != null">and message &lt; #{q.before}</if>
            <if test="q.lane != null">and lane = #{q.lane}</if>
            <if test="q.device != null">and device = #{q.device}</if>
            order by message desc
            <if test="q.inlet == null and q.type == null and q.simulated == null">limit #{q.limit}</if>) newest)
            """;

    /** What a query asks of a message beside its time and its lane; what is not asked for is left out. */
    String FILTERS = """
            <if test="q.inlet != null">and m.inlet = #{q.inlet}</if>
            <if test="q.contains != null">
              and position(lower(encode(#{q.containsBytes}, 'escape')) in lower(encode(m.body, 'escape'))) > 0</if>
            <if test="q.device != null">and m.device = #{q.device}</if>
            <if test="q.type != null">and m.type = #{q.type}</if>
            <if test="q.type != null and q.type != 'reading'">and m.type != 'reading'</if>
            <if test="q.simulated != null and q.simulated">and m.simulated</if>
            <if test="q.simulated != null and !q.simulated">and not m.simulated</if>
            <choose>
              <when test="q.state == 'unreadable' or q.state == 'unclaimed' or q.state == 'deferred' or q.state == 'duplicate' or q.state == 'whole'">and m.state = '${q.state}'</when>
              <when test="q.state == 'unrouted'">and m.state = 'read' and m.lanes = '{}'</when>
              <when test="q.state == 'waiting'">and (m.received, m.id) in (select received, message from (
                select distinct message, received from owed
            """ + NEWEST_ASKED_FOR + """
              </when>
              <when test="q.state == 'dead'">and (m.received, m.id) in (select received, message from (
                select distinct message, received from dead_letter
            """ + NEWEST_ASKED_FOR + """
              </when>
              <when test="q.state == 'delivered'">and m.state = 'read' and m.lanes != '{}'
                and not exists (select 1 from owed o where o.message = m.id)
                and not exists (select 1 from dead_letter d where d.message = m.id)</when>
            </choose>
            """;

    /** The newest first; each filter is left out where it is null. */
    @Select("""
            <script>
            select ${@org.holtra.service.journal.sql.MessageMapper@COLUMNS}
            from message m
            where m.received &gt;= #{q.from} and m.received &lt; #{q.to}
            <if test="q.before != null">and (m.received, m.id) &lt; (#{q.beforeReceived}, #{q.before})</if>
            """ + FILTERS + """
            order by m.received desc, m.id desc
            limit #{q.limit}
            </script>
            """)
    @ResultMap("org.holtra.service.journal.sql.MessageMapper.message")
    @Options(fetchSize = AT_A_TIME)
    void list(@Param("q") MessageQuery query, ResultHandler<MessageRow> room);

    /** What of so many of the latest messages is asked for, the newest first. */
    @Select("""
            <script>
            select ${@org.holtra.service.journal.sql.MessageMapper@COLUMNS}
            from (select * from message m where m.received &gt;= #{q.from} and m.received &lt; #{q.to}
                  <if test="q.before != null">and (m.received, m.id) &lt; (#{q.beforeReceived}, #{q.before})</if>
                  order by m.received desc, m.id desc limit #{latest}) m
            where true
            <if test="q.lane != null">and m.lanes @&gt; array[#{q.lane}::text]</if>
            """ + FILTERS + """
            order by m.received desc, m.id desc limit #{q.limit}
            </script>
            """)
    @ResultMap("org.holtra.service.journal.sql.MessageMapper.message")
    @Options(fetchSize = AT_A_TIME)
    void amongLatest(@Param("q") MessageQuery query, @Param("latest") int latest, ResultHandler<MessageRow> room);

    /** What a lane took, the newest first; by the index of lanes, which the planner would not choose for a lane it does not know. */
    @Select("""
            <script>
            with m as materialized (
              select * from message where lanes @&gt; array[#{q.lane}::text]
                and received &gt;= #{q.from} and received &lt; #{q.to})
            select ${@org.holtra.service.journal.sql.MessageMapper@COLUMNS}
            from m
            where true
            <if test="q.before != null">and (m.received, m.id) &lt; (#{q.beforeReceived}, #{q.before})</if>
            """ + FILTERS + """
            order by m.received desc, m.id desc limit #{q.limit}
            </script>
            """)
    @ResultMap("org.holtra.service.journal.sql.MessageMapper.message")
    @Options(fetchSize = AT_A_TIME)
    void ofLane(@Param("q") MessageQuery query, ResultHandler<MessageRow> room);

    /** The messages that an arrival was taken apart into; they have its time. */
    @Select("""
            select ${@org.holtra.service.journal.sql.MessageMapper@COLUMNS} from message m
            where m.received = #{received} and m.whole = #{id}
            """)
    @ResultMap("org.holtra.service.journal.sql.MessageMapper.message")
    List<MessageRow> parts(@Param("id") UUID id, @Param("received") Instant received);

    /** The duplicates of a message that came after it. */
    @Select("""
            select ${@org.holtra.service.journal.sql.MessageMapper@COLUMNS} from message m
            where m.duplicate_of = #{id} and m.state = 'duplicate' and m.received >= #{received} and m.received < #{until} order by m.received, m.id
            limit #{limit}
            """)
    @ResultMap("org.holtra.service.journal.sql.MessageMapper.message")
    @Options(fetchSize = AT_A_TIME)
    void duplicates(
            @Param("id") UUID id,
            @Param("received") Instant received,
            @Param("until") Instant until,
            @Param("limit") int limit,
            ResultHandler<MessageRow> room);

    @Select("""
            select id::text from message
            where duplicate_of = #{id} and state = 'made' and received = date_trunc('milliseconds', #{received}::timestamptz)
            order by event_time, id limit 1000
            """)
    List<String> splitInto(@Param("id") UUID id, @Param("received") Instant received);

    /** The first of each message that may still have duplicates. */
    @Select("""
            select id, inlet, device, duplicate_key as key from message
            where received > #{since} and duplicate_key is not null and duplicate_of is null
            """)
    List<Records.First> firsts(@Param("since") Instant since);

    /** What waits to be read, in the order it came, but for these devices; an inlet where a message is of none. */
    @Select("""
            select ${@org.holtra.service.journal.sql.MessageMapper@COLUMNS} from message m
            where m.state = 'deferred' and coalesce(m.device, 'inlet ' || m.inlet) != all(#{without}::text[])
            order by m.received, m.id limit #{limit}
            """)
    @ResultMap("org.holtra.service.journal.sql.MessageMapper.message")
    @Options(fetchSize = AT_A_TIME)
    void deferred(@Param("without") String[] without, @Param("limit") int limit, ResultHandler<MessageRow> room);

    /** Of whom something waits to be read, once for each message. */
    @Select("""
            select coalesce(device, 'inlet ' || inlet) from message where state = 'deferred'
            order by received, id limit #{limit}
            """)
    List<String> deferredOf(@Param("limit") int limit);

    /** How much waits to be read, and why. */
    @Select("""
            select reason, count(*) as messages, min(received) as oldest
            from (select reason, received from message where state = 'deferred' order by received limit #{limit}) d
            group by reason order by messages desc
            """)
    List<Records.Deferred> deferredReasons(@Param("limit") int limit);

    /** The newest read messages of some inlets, the newest first. */
    @Select("""
            select ${@org.holtra.service.journal.sql.MessageMapper@COLUMNS} from message m
            where m.inlet = any(#{inlets}::text[]) and (m.state = 'read' or m.state = 'made' and m.type = 'alarm')
            order by m.received desc, m.id desc limit #{limit}
            """)
    @ResultMap("org.holtra.service.journal.sql.MessageMapper.message")
    @Options(fetchSize = AT_A_TIME)
    void last(@Param("inlets") String[] inlets, @Param("limit") int limit, ResultHandler<MessageRow> room);

    /**
     * Read messages of some inlets in the order they came, after one; and what a lane made, where its inlet is among them.
     *
     * @param lane null for none
     */
    @Select("""
            select ${@org.holtra.service.journal.sql.MessageMapper@COLUMNS} from message m
            where (m.received, m.id) > (#{received}, #{id}) and m.received < #{until} and m.inlet = any(#{inlets}::text[])
              and (m.state = 'read' or m.state = 'made' and (m.type = 'alarm' or #{lane}::text = any(m.lanes)))
            order by m.received, m.id limit #{limit}
            """)
    @ResultMap("org.holtra.service.journal.sql.MessageMapper.message")
    @Options(fetchSize = AT_A_TIME)
    void readAfter(
            @Param("inlets") String[] inlets,
            @Param("received") Instant received,
            @Param("id") UUID id,
            @Param("until") Instant until,
            @Param("lane") String lane,
            @Param("limit") int limit,
            ResultHandler<MessageRow> room);

    /** How many messages a lane made in a span. */
    @Select("""
            select count(*) from message
            where inlet = 'holtra' and state = 'made' and #{lane} = any(lanes) and received >= #{from} and received < #{until}
            """)
    long countMade(@Param("lane") String lane, @Param("from") Instant from, @Param("until") Instant until);

    /** How many read messages of some inlets there are in a span, and when the first of the last so many came. */
    @Select("""
            select count(*) as count, min(received) as first from (
              select received from message
              where inlet = any(#{inlets}::text[]) and (state = 'read' or state = 'made' and type = 'alarm') and received >= #{from} and received < #{until}
              order by received desc limit #{most}) m
            """)
    Stretch stretch(
            @Param("inlets") String[] inlets,
            @Param("from") Instant from,
            @Param("until") Instant until,
            @Param("most") long most);

    /** In the order they came, from a message on; device and inlets are left out where they are null. */
    @Select("""
            <script>
            select ${@org.holtra.service.journal.sql.MessageMapper@COLUMNS} from message m
            where (m.received, m.id) &gt; (#{received}, #{id}) and m.received &lt; #{until}
            <if test="device != null">and m.device = #{device}</if>
            <if test="inlets != null">and m.inlet = any(#{inlets}::text[])</if>
            order by m.received, m.id limit #{limit}
            </script>
            """)
    @ResultMap("org.holtra.service.journal.sql.MessageMapper.message")
    @Options(fetchSize = AT_A_TIME)
    void after(
            @Param("received") Instant received,
            @Param("id") UUID id,
            @Param("until") Instant until,
            @Param("device") String device,
            @Param("inlets") String[] inlets,
            @Param("limit") int limit,
            ResultHandler<MessageRow> room);

    /** Where a device's own numbers jump: what lies between two messages never reached us. */
    @Select("""
            select sequence, before, received, id from (
              select sequence, lag(sequence) over (order by received, id) as before, received, id
              from message where device = #{device} and inlet = #{inlet} and received >= #{from} and received < #{to}
                and sequence is not null and state = 'read') s
            where before is not null and sequence != before + 1
            order by received desc limit 200
            """)
    List<Jump> jumps(
            @Param("device") String device,
            @Param("inlet") String inlet,
            @Param("from") Instant from,
            @Param("to") Instant to);
}
