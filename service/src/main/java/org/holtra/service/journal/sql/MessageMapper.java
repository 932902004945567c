package org.holtra.service.journal.sql;

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
public interface MessageMapper {

    String COLUMNS = """
            m.id, m.inlet, m.state, m.reason, m.device, m.device_revision, m.event_time, m.type, m.simulated,
            m.setup_revision, array_to_string(m.lanes, ',') as lanes, m.sequence, m.duplicate_key, m.duplicate_of, m.parts,
            m.arrival,
            m.body
            """;

    @Insert("""
            insert into message (id, received, inlet, state, reason, device, device_revision, event_time, type, simulated,
                                 setup_revision, lanes, sequence, duplicate_key, duplicate_of, whole, parts, arrival, body)
            select id, received, inlet, state, reason, device, device_revision, event_time, type, simulated,
                   setup_revision, string_to_array(lanes, ','), sequence, duplicate_key, duplicate_of, whole, parts, arrival, body
            from unnest(#{c.id}::uuid[], #{c.received}::timestamptz[], #{c.inlet}::text[], #{c.state}::text[],
                        #{c.reason}::text[], #{c.device}::text[], #{c.deviceRevision}::int[],
                        #{c.eventTime}::timestamptz[], #{c.type}::text[], #{c.simulated}::bool[],
                        #{c.setupRevision}::int[], #{c.lanes}::text[], #{c.sequence}::int8[],
                        #{c.duplicateKey}::text[], #{c.duplicateOf}::uuid[], #{c.whole}::uuid[], #{c.parts}::int[],
                        #{c.arrival}::bytea[], #{c.body}::bytea[])
              as r(id, received, inlet, state, reason, device, device_revision, event_time, type, simulated,
                   setup_revision, lanes, sequence, duplicate_key, duplicate_of, whole, parts, arrival, body)
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
        @Arg(column = "parts", javaType = Integer.class),
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

    /** @param bytes of the body of a message */
    record Size(UUID id, long bytes) {}

    /** How large these messages are, without fetching them. */
    @Select("""
            select m.id, octet_length(m.body)::int8 as bytes from unnest(#{received}::timestamptz[], #{ids}::uuid[]) as w(received, id)
            join message m on m.received = w.received and m.id = w.id
            """)
    List<Size> sizes(@Param("received") Instant[] received, @Param("ids") UUID[] ids);

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

    /** Read again: everything but what came may be different now. */
    @Update("""
            update message m
            set state = u.state, reason = u.reason, device = u.device, device_revision = u.device_revision,
                event_time = u.event_time, type = u.type, simulated = u.simulated, setup_revision = u.setup_revision,
                lanes = string_to_array(u.lanes, ','), sequence = u.sequence, parts = u.parts
            from unnest(#{c.id}::uuid[], #{c.received}::timestamptz[], #{c.state}::text[], #{c.reason}::text[],
                        #{c.device}::text[], #{c.deviceRevision}::int[], #{c.eventTime}::timestamptz[], #{c.type}::text[],
                        #{c.simulated}::bool[], #{c.setupRevision}::int[], #{c.lanes}::text[], #{c.sequence}::int8[],
                        #{c.parts}::int[])
              as u(id, received, state, reason, device, device_revision, event_time, type, simulated, setup_revision, lanes,
                   sequence, parts)
            where m.received = u.received and m.id = u.id
            """)
    void update(@Param("c") MessageColumns columns);
}
