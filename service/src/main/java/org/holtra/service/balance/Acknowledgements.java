package org.holtra.service.balance;

import static org.holtra.service.database.Columns.column;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.time.Instant;
import java.time.InstantSource;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Options;
import org.apache.ibatis.annotations.Options.FlushCachePolicy;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.holtra.core.message.MessageId;
import org.holtra.service.settings.HoltraSettings;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionDefinition;
import org.springframework.transaction.TransactionException;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Which messages were acknowledged, noted by those who answer senders and apart from the messages themselves, so that the
 * journal can be held against it, message by message. It is noted in a log of this node's own as the sender is answered, and
 * comes into the database each second: each part of the log once, whatever breaks, since the database keeps in the same
 * transaction how far it has come. So nothing is forgotten with a process that is killed, nor counted twice.
 */
@Component
public class Acknowledgements implements AutoCloseable {

    private final Totals totals = new Totals();

    private static final int ID = 16;
    private static final int AT_ONCE = 20_000;
    private static final Logger log = LoggerFactory.getLogger(Acknowledgements.class);

    private final AcknowledgedMapper mapper;
    private final TallyMapper tallies;
    private final BeforeCounting before;
    private final TransactionTemplate transaction;
    private final InstantSource clock;
    private final AcknowledgementLog noted;
    /** Up to where the database has the log; null if that must be asked for. */
    private Long written;

    Acknowledgements(
            AcknowledgedMapper mapper,
            TallyMapper tallies,
            BeforeCounting before,
            TransactionTemplate transactions,
            Place place) {
        this.mapper = mapper;
        this.tallies = tallies;
        this.before = before;
        this.clock = place.clock;
        this.noted = new AcknowledgementLog(place.settings.spoolFolder());
        // Whoever draws up a balance may be in a transaction, whose end must not decide about this.
        this.transaction = new TransactionTemplate(transactions.getTransactionManager());
        this.transaction.setPropagationBehavior(TransactionDefinition.PROPAGATION_REQUIRES_NEW);
    }

    /** Where this node's log lies. */
    @Component
    record Place(HoltraSettings settings, InstantSource clock) {}

    /**
     * The sender is told that this message is taken.
     *
     * @param ignored whether it is counted and not kept
     */
    public void add(MessageId id, String inlet, boolean ignored) {
        totals.add(Tally.What.ACKNOWLEDGED, inlet, 1);
        if (ignored) {
            totals.add(Tally.What.IGNORED, inlet, 1);
        }
        noted.add(inlet, id, ignored);
    }

    /** What was acknowledged since this process started. */
    public List<Totals.Total> totals() {
        return totals.all();
    }

    /** Brings what was noted into the database. */
    public synchronized void write() {
        try {
            if (written == null) {
                Long position = mapper.position(noted.name());
                written = position == null ? 0 : position;
            }
            for (List<AcknowledgementLog.Entry> part = part(); !part.isEmpty(); part = part()) {
                write(part);
            }
        } catch (DataAccessException | TransactionException e) {
            // Whether it was written is not known then; the database says so the next time.
            written = null;
            log.debug("Acknowledgements could not be written and are kept for the next time: {}", e.getMessage());
        } finally {
            noted.force();
        }
    }

    private List<AcknowledgementLog.Entry> part() {
        return noted.from(written, AT_ONCE);
    }

    private void write(List<AcknowledgementLog.Entry> part) {
        long position = part.getLast().next();
        before.tell();
        transaction.executeWithoutResult(status -> {
            byMinute(part).forEach((minute, ids) -> mapper.add(minute, bytes(ids)));
            count(part);
            mapper.setPosition(noted.name(), position, clock.instant());
        });
        written = position;
        try {
            noted.forget(position);
        } catch (IOException e) {
            log.warn("A part of the log of acknowledgements could not be deleted: {}", e.getMessage());
        }
    }

    private static Map<Instant, List<MessageId>> byMinute(List<AcknowledgementLog.Entry> part) {
        Map<Instant, List<MessageId>> byMinute = new TreeMap<>();
        part.stream()
                .filter(entry -> !entry.ignored())
                .forEach(entry -> byMinute.computeIfAbsent(minute(entry.id()), minute -> new ArrayList<>())
                        .add(entry.id()));
        return byMinute;
    }

    private static Instant minute(MessageId id) {
        return id.received().truncatedTo(ChronoUnit.MINUTES);
    }

    private void count(List<AcknowledgementLog.Entry> part) {
        record Key(Instant minute, Tally.What what, String inlet) {}
        Map<Key, Long> counts = new HashMap<>();
        part.forEach(entry -> {
            counts.merge(new Key(minute(entry.id()), Tally.What.ACKNOWLEDGED, entry.inlet()), 1L, Long::sum);
            if (entry.ignored()) {
                counts.merge(new Key(minute(entry.id()), Tally.What.IGNORED, entry.inlet()), 1L, Long::sum);
            }
        });
        List<Key> keys = List.copyOf(counts.keySet());
        tallies.add(
                column(keys, Key::minute, Instant[]::new),
                column(keys, key -> key.what().name(), String[]::new),
                column(keys, Key::inlet, String[]::new),
                column(keys, counts::get, Long[]::new));
    }

    private static byte[] bytes(List<MessageId> ids) {
        ByteBuffer buffer = ByteBuffer.allocate(ids.size() * ID);
        for (MessageId id : ids) {
            UUID value = id.value();
            buffer.putLong(value.getMostSignificantBits()).putLong(value.getLeastSignificantBits());
        }
        return buffer.array();
    }

    /** Forgets what was acknowledged before then; the counts stay. */
    public void forget(Instant before) {
        mapper.forget(before);
    }

    @Override
    public void close() {
        noted.close();
    }

    @Mapper
    interface AcknowledgedMapper {

        @Insert("insert into acknowledged (minute, ids) values (#{minute}, #{ids})")
        void add(@Param("minute") Instant minute, @Param("ids") byte[] ids);

        @Select("select position from acknowledgement_log where log = #{log}")
        @Options(flushCache = FlushCachePolicy.TRUE)
        Long position(@Param("log") UUID log);

        @Insert("""
                insert into acknowledgement_log (log, position, at) values (#{log}, #{position}, #{at})
                on conflict (log) do update set position = excluded.position, at = excluded.at
                """)
        void setPosition(@Param("log") UUID log, @Param("position") long position, @Param("at") Instant at);

        @Delete("delete from acknowledged where minute < #{before}")
        void forget(@Param("before") Instant before);
    }
}
