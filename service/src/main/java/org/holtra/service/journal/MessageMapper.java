package org.holtra.service.journal;

import static org.holtra.service.database.Columns.column;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.apache.ibatis.annotations.Arg;
import org.apache.ibatis.annotations.ConstructorArgs;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.ResultMap;
import org.apache.ibatis.annotations.Results;
import org.apache.ibatis.annotations.Select;
import org.apache.ibatis.annotations.Update;
import org.holtra.core.message.MessageId;

@Mapper
interface MessageMapper {

    String COLUMNS = """
            m.id, m.inlet, m.state, m.reason, m.device, m.device_revision, m.event_time, m.type, m.simulated,
            m.setup_revision, array_to_string(m.lanes, ',') as lanes, m.sequence, m.duplicate_key, m.duplicate_of, m.arrival,
            m.body
            """;

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
            <if test="q.device != null">and m.device = #{q.device}</if>
            <if test="q.type != null">and m.type = #{q.type}</if>
            <if test="q.type != null and q.type != 'reading'">and m.type != 'reading'</if>
            <if test="q.simulated != null and q.simulated">and m.simulated</if>
            <if test="q.simulated != null and !q.simulated">and not m.simulated</if>
            <choose>
              <when test="q.state == 'unreadable' or q.state == 'unclaimed' or q.state == 'deferred' or q.state == 'duplicate'">and m.state = '${q.state}'</when>
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

    @Insert("""
            insert into message (id, received, inlet, state, reason, device, device_revision, event_time, type, simulated,
                                 setup_revision, lanes, sequence, duplicate_key, duplicate_of, arrival, body)
            select id, received, inlet, state, reason, device, device_revision, event_time, type, simulated,
                   setup_revision, string_to_array(lanes, ','), sequence, duplicate_key, duplicate_of, arrival, body
            from unnest(#{c.id}::uuid[], #{c.received}::timestamptz[], #{c.inlet}::text[], #{c.state}::text[],
                        #{c.reason}::text[], #{c.device}::text[], #{c.deviceRevision}::int[],
                        #{c.eventTime}::timestamptz[], #{c.type}::text[], #{c.simulated}::bool[],
                        #{c.setupRevision}::int[], #{c.lanes}::text[], #{c.sequence}::int8[],
                        #{c.duplicateKey}::text[], #{c.duplicateOf}::uuid[], #{c.arrival}::bytea[], #{c.body}::bytea[])
              as r(id, received, inlet, state, reason, device, device_revision, event_time, type, simulated,
                   setup_revision, lanes, sequence, duplicate_key, duplicate_of, arrival, body)
            """)
    void insert(@Param("c") MessageColumns columns);

    /** Said column by column, since to find that out for each row takes longer than all the rest. */
    @Results(id = "message")
    @ConstructorArgs({
        @Arg(column = "id", javaType = UUID.class),
        @Arg(column = "inlet", javaType = String.class),
        @Arg(column = "state", javaType = String.class),
        @Arg(column = "reason", javaType = String.class),
        @Arg(column = "device", javaType = String.class),
        @Arg(column = "device_revision", javaType = Integer.class),
        @Arg(column = "event_time", javaType = Instant.class),
        @Arg(column = "type", javaType = String.class),
        @Arg(column = "simulated", javaType = boolean.class),
        @Arg(column = "setup_revision", javaType = int.class),
        @Arg(column = "lanes", javaType = String.class),
        @Arg(column = "sequence", javaType = Long.class),
        @Arg(column = "duplicate_key", javaType = String.class),
        @Arg(column = "duplicate_of", javaType = UUID.class),
        @Arg(column = "arrival", javaType = byte[].class),
        @Arg(column = "body", javaType = byte[].class)
    })
    @Select("select " + COLUMNS + " from message m where m.received = #{received} and m.id = #{id}")
    Optional<MessageRow> find(@Param("received") Instant received, @Param("id") UUID id);

    @Select("select " + COLUMNS + """
             from unnest(#{received}::timestamptz[], #{ids}::uuid[]) as w(received, id)
             join message m on m.received = w.received and m.id = w.id
            """)
    @ResultMap("message")
    List<MessageRow> findAll(@Param("received") Instant[] received, @Param("ids") UUID[] ids);

    /** The newest first; each filter is left out where it is null. */
    @Select("""
            <script>
            select ${@org.holtra.service.journal.MessageMapper@COLUMNS}
            from message m
            where m.received &gt;= #{q.from} and m.received &lt; #{q.to}
            <if test="q.before != null">and (m.received, m.id) &lt; (#{q.beforeReceived}, #{q.before})</if>
            """ + FILTERS + """
            order by m.received desc, m.id desc
            limit #{q.limit}
            </script>
            """)
    @ResultMap("message")
    List<MessageRow> list(@Param("q") MessageQuery query);

    /** What a lane took among so many of the latest messages, the newest first. */
    @Select("""
            <script>
            select ${@org.holtra.service.journal.MessageMapper@COLUMNS}
            from (select * from message m where m.received &gt;= #{q.from} and m.received &lt; #{q.to}
                  <if test="q.before != null">and (m.received, m.id) &lt; (#{q.beforeReceived}, #{q.before})</if>
                  order by m.received desc, m.id desc limit #{latest}) m
            where m.lanes @&gt; array[#{q.lane}::text]
            """ + FILTERS + """
            order by m.received desc, m.id desc limit #{q.limit}
            </script>
            """)
    @ResultMap("message")
    List<MessageRow> ofLaneAmongLatest(@Param("q") MessageQuery query, @Param("latest") int latest);

    /** What a lane took, the newest first; by the index of lanes, which the planner would not choose for a lane it does not know. */
    @Select("""
            <script>
            with m as materialized (
              select * from message where lanes @&gt; array[#{q.lane}::text]
                and received &gt;= #{q.from} and received &lt; #{q.to})
            select ${@org.holtra.service.journal.MessageMapper@COLUMNS}
            from m
            where true
            <if test="q.before != null">and (m.received, m.id) &lt; (#{q.beforeReceived}, #{q.before})</if>
            """ + FILTERS + """
            order by m.received desc, m.id desc limit #{q.limit}
            </script>
            """)
    @ResultMap("message")
    List<MessageRow> ofLane(@Param("q") MessageQuery query);

    @Select("""
            select message, lane, outlet, 'waiting' as state, attempts, due as at, reason, point, replay, null::uuid as into from owed where message = any(#{ids})
            union all
            select message, lane, outlet, case when dropped_until is null then 'dead' else 'dropped' end, attempts, died,
                   case when dropped_until is null then reason else 'dropped by ' || dropped_by end, point, replay, null
            from dead_letter where message = any(#{ids})
            union all
            select message, lane, '', 'remembered', 0, received, 'in the memory of the lane, until it is known what becomes of it',
                   null, null, null
            from remembered where message = any(#{ids}) and lane not like 'lookout/%'
            union all
            select message, lane, outlet, fate, attempts, at, reason, point, replay, into_message from outcome
            where message = any(#{ids}) and received between #{from} and #{to}
            """)
    List<LaneState> states(@Param("ids") UUID[] ids, @Param("from") Instant from, @Param("to") Instant to);

    /** The duplicates of a message that came after it. */
    @Select("""
            select ${@org.holtra.service.journal.MessageMapper@COLUMNS} from message m
            where m.duplicate_of = #{id} and m.state = 'duplicate' and m.received >= #{received} and m.received < #{until} order by m.received, m.id
            limit 50
            """)
    @ResultMap("message")
    List<MessageRow> duplicates(
            @Param("id") UUID id, @Param("received") Instant received, @Param("until") Instant until);

    @Select("""
            select id::text from message
            where duplicate_of = #{id} and state = 'made' and received = date_trunc('milliseconds', #{received}::timestamptz)
            order by event_time, id limit 1000
            """)
    List<String> splitInto(@Param("id") UUID id, @Param("received") Instant received);

    /** The first of each message that may still have duplicates. */
    @Select("""
            select ${@org.holtra.service.journal.MessageMapper@COLUMNS} from message m
            where m.received > #{since} and m.duplicate_key is not null and m.duplicate_of is null
            """)
    @ResultMap("message")
    List<MessageRow> firsts(@Param("since") Instant since);

    /** Of these messages, those that wait to be read; until the end of the transaction no other node reads them. */
    @Select("""
            select m.id from unnest(#{ids}::uuid[], #{received}::timestamptz[]) as n(id, received)
            join message m on m.received = n.received and m.id = n.id
            where m.state = 'deferred' order by m.received, m.id for update of m
            """)
    @Options(flushCache = FlushCachePolicy.TRUE)
    Set<UUID> stillDeferred(@Param("ids") UUID[] ids, @Param("received") Instant[] received);

    @Update("update message set reason = #{reason} where received = #{received} and id = #{id} and state = 'deferred'")
    int deferredFor(@Param("received") Instant received, @Param("id") UUID id, @Param("reason") String reason);

    /** What waits to be read, in the order it came, but for these devices; an inlet where a message is of none. */
    @Select("""
            select ${@org.holtra.service.journal.MessageMapper@COLUMNS} from message m
            where m.state = 'deferred' and coalesce(m.device, 'inlet ' || m.inlet) != all(#{without}::text[])
            order by m.received, m.id limit #{limit}
            """)
    @ResultMap("message")
    List<MessageRow> deferred(@Param("without") String[] without, @Param("limit") int limit);

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

    /** Of these messages, those that are kept. */
    default Set<UUID> existing(List<MessageId> ids) {
        return ids.isEmpty()
                ? Set.of()
                : existing(
                        column(ids, MessageId::value, UUID[]::new), column(ids, MessageId::received, Instant[]::new));
    }

    @Select("""
            select m.id from unnest(#{ids}::uuid[], #{received}::timestamptz[]) as n(id, received)
            join message m on m.received = n.received and m.id = n.id
            """)
    Set<UUID> existing(@Param("ids") UUID[] ids, @Param("received") Instant[] received);

    /** @param duplicateOf the message that one is a duplicate of */
    record Duplicate(UUID id, UUID duplicateOf) {}

    /** Of messages that are about to be kept, those that are duplicates of kept ones. */
    @Select("""
            select n.id, m.id as duplicate_of
            from unnest(#{ids}::uuid[], #{inlets}::text[], #{devices}::text[], #{keys}::text[], #{since}::timestamptz[])
                   as n(id, inlet, device, duplicate_key, since)
            join message m on m.device = n.device and m.received >= n.since and m.inlet = n.inlet
                and m.duplicate_key = n.duplicate_key and m.duplicate_of is null
            """)
    List<Duplicate> duplicatesAmong(
            @Param("ids") UUID[] ids,
            @Param("inlets") String[] inlets,
            @Param("devices") String[] devices,
            @Param("keys") String[] keys,
            @Param("since") Instant[] since);

    /** The newest read messages of some inlets, the newest first. */
    @Select("""
            select ${@org.holtra.service.journal.MessageMapper@COLUMNS} from message m
            where m.inlet = any(#{inlets}::text[]) and (m.state = 'read' or m.state = 'made' and m.type = 'alarm')
            order by m.received desc, m.id desc limit #{limit}
            """)
    @ResultMap("message")
    List<MessageRow> last(@Param("inlets") String[] inlets, @Param("limit") int limit);

    /**
     * Read messages of some inlets in the order they came, after one; and what a lane made, where its inlet is among them.
     *
     * @param lane null for none
     */
    @Select("""
            select ${@org.holtra.service.journal.MessageMapper@COLUMNS} from message m
            where (m.received, m.id) > (#{received}, #{id}) and m.received < #{until} and m.inlet = any(#{inlets}::text[])
              and (m.state = 'read' or m.state = 'made' and (m.type = 'alarm' or #{lane}::text = any(m.lanes)))
            order by m.received, m.id limit #{limit}
            """)
    @ResultMap("message")
    List<MessageRow> readAfter(
            @Param("inlets") String[] inlets,
            @Param("received") Instant received,
            @Param("id") UUID id,
            @Param("until") Instant until,
            @Param("lane") String lane,
            @Param("limit") int limit);

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
            select ${@org.holtra.service.journal.MessageMapper@COLUMNS} from message m
            where (m.received, m.id) &gt; (#{received}, #{id}) and m.received &lt; #{until}
            <if test="device != null">and m.device = #{device}</if>
            <if test="inlets != null">and m.inlet = any(#{inlets}::text[])</if>
            order by m.received, m.id limit #{limit}
            </script>
            """)
    @ResultMap("message")
    List<MessageRow> after(
            @Param("received") Instant received,
            @Param("id") UUID id,
            @Param("until") Instant until,
            @Param("device") String device,
            @Param("inlets") String[] inlets,
            @Param("limit") int limit);

    /** Read again: everything but what came may be different now. */
    @Update("""
            update message m
            set state = u.state, reason = u.reason, device = u.device, device_revision = u.device_revision,
                event_time = u.event_time, type = u.type, simulated = u.simulated, setup_revision = u.setup_revision,
                lanes = string_to_array(u.lanes, ','), sequence = u.sequence
            from unnest(#{c.id}::uuid[], #{c.received}::timestamptz[], #{c.state}::text[], #{c.reason}::text[],
                        #{c.device}::text[], #{c.deviceRevision}::int[], #{c.eventTime}::timestamptz[], #{c.type}::text[],
                        #{c.simulated}::bool[], #{c.setupRevision}::int[], #{c.lanes}::text[], #{c.sequence}::int8[])
              as u(id, received, state, reason, device, device_revision, event_time, type, simulated, setup_revision, lanes,
                   sequence)
            where m.received = u.received and m.id = u.id
            """)
    void update(@Param("c") MessageColumns columns);

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
