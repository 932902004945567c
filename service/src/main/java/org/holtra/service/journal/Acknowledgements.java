package org.holtra.service.journal;

import java.nio.ByteBuffer;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentLinkedQueue;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Mapper;
import org.apache.ibatis.annotations.Param;
import org.holtra.core.message.MessageId;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;

/**
 * Which messages were acknowledged, noted by those who answer senders and apart from the messages themselves, so that the
 * journal can be held against it, message by message. Written each second; what a process noted in its last second before
 * it is killed is lost, so it never names more than the truth.
 */
@Component
public class Acknowledgements {

    private static final int ID = 16;
    private static final Logger log = LoggerFactory.getLogger(Acknowledgements.class);

    private final AcknowledgedMapper mapper;
    private final BeforeCounting before;
    private final ConcurrentLinkedQueue<MessageId> unwritten = new ConcurrentLinkedQueue<>();

    Acknowledgements(AcknowledgedMapper mapper, BeforeCounting before) {
        this.mapper = mapper;
        this.before = before;
    }

    /** The sender has been told that this message is kept. */
    public void add(MessageId id) {
        unwritten.add(id);
    }

    public synchronized void write() {
        Map<Instant, ConcurrentLinkedQueue<MessageId>> byMinute = new LinkedHashMap<>();
        for (MessageId id = unwritten.poll(); id != null; id = unwritten.poll()) {
            byMinute.computeIfAbsent(
                            id.received().truncatedTo(ChronoUnit.MINUTES), minute -> new ConcurrentLinkedQueue<>())
                    .add(id);
        }
        if (byMinute.isEmpty()) {
            return;
        }
        Set<Instant> written = new HashSet<>();
        try {
            before.tell();
            byMinute.forEach((minute, ids) -> {
                mapper.add(minute, bytes(ids));
                written.add(minute);
            });
        } catch (DataAccessException e) {
            byMinute.keySet().removeAll(written);
            byMinute.values().forEach(unwritten::addAll);
            log.warn("Acknowledgements could not be written and are kept for the next time: {}", e.getMessage());
        }
    }

    private static byte[] bytes(ConcurrentLinkedQueue<MessageId> ids) {
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

    @Mapper
    interface AcknowledgedMapper {

        @Insert("insert into acknowledged (minute, ids) values (#{minute}, #{ids})")
        void add(@Param("minute") Instant minute, @Param("ids") byte[] ids);

        @Delete("delete from acknowledged where minute < #{before}")
        void forget(@Param("before") Instant before);
    }
}
