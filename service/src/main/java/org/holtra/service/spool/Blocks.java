package org.holtra.service.spool;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;
import java.util.UUID;
import org.holtra.core.message.MessageId;

/**
 * Where in the spool a message may stand: the first and the last id of each stretch of records, so that one message is found
 * without reading all. Guarded by the spool.
 */
final class Blocks {

    private static final int RECORDS = 256;

    /** A stretch of records of a segment; ids come nearly in order, but not quite. */
    static final class Block {
        private final Segment segment;
        private final long from;
        private int records;
        private MessageId least;
        private MessageId most;

        private Block(Segment segment, long from, MessageId id) {
            this.segment = segment;
            this.from = from;
            this.least = id;
            this.most = id;
        }

        Segment segment() {
            return segment;
        }

        long from() {
            return from;
        }

        int records() {
            return records;
        }

        private void add(MessageId id) {
            records++;
            least = id.compareTo(least) < 0 ? id : least;
            most = id.compareTo(most) > 0 ? id : most;
        }
    }

    private final Deque<Block> blocks = new ArrayDeque<>();

    /** @param at where the record begins */
    void add(Segment segment, long at, UUID value) {
        MessageId id = new MessageId(value);
        Block last = blocks.peekLast();
        if (last == null || last.segment != segment || last.records >= RECORDS) {
            last = new Block(segment, at, id);
            blocks.add(last);
        }
        last.add(id);
    }

    /** A segment is gone. */
    void forget(Segment segment) {
        while (!blocks.isEmpty() && blocks.peek().segment == segment) {
            blocks.poll();
        }
    }

    /** Those in which a message may stand. */
    List<Block> around(MessageId id) {
        return blocks.stream()
                .filter(block -> block.least.compareTo(id) <= 0 && block.most.compareTo(id) >= 0)
                .toList();
    }
}
