package org.holtra.service.spool;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Deque;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicLong;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import org.holtra.service.journal.GroupCommit;
import org.holtra.service.journal.JournalUnavailable;
import org.holtra.service.settings.HoltraSettings;
import org.holtra.service.settings.PrivateFolder;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/**
 * Where arrivals wait on this node's disk while the database is away. What it promises to keep has been written through to
 * the disk; it stays until it stands in the journal. It is bounded, and it is this node's disk: what a node that is lost
 * for good had spooled is lost with it.
 *
 * <p>How far it has been drained is written down a moment later than it is so; after a crash some of what is in the
 * journal is read again, and is known there by its id.
 */
@Component
public class Spool implements AutoCloseable {

    private static final int MOST_WAITING = 10_000;
    private static final int LARGEST_GROUP = 500;
    private static final long SEGMENT_BYTES = 16L << 20;
    private static final long NEXT_BYTES = 8 << 20;
    private static final String POSITION = "position";
    private static final Logger log = LoggerFactory.getLogger(Spool.class);

    /**
     * How it stands.
     *
     * @param on whether this installation uses it
     * @param messages how many wait in it
     * @param bytes they take, of at most
     * @param oldest when the first of them came; null if there are none
     * @param trouble why it takes nothing more; null if it does
     * @param minutes how many of those that wait came in which minute
     */
    public record State(
            boolean on,
            long messages,
            long bytes,
            long limit,
            Instant oldest,
            String trouble,
            Map<Instant, Long> minutes) {}

    private final Path folder;
    private final long limit;
    private final Deque<Segment> segments = new ArrayDeque<>();
    private final Blocks blocks = new Blocks();
    private final AtomicLong waiting = new AtomicLong();
    private final GroupCommit<Arrival, Void> writer;
    private final NavigableMap<Instant, Long> minutes = new TreeMap<>();
    private long position;
    private Instant oldest;
    private volatile String trouble;

    Spool(HoltraSettings settings) throws IOException {
        folder = settings.spoolFolder();
        limit = settings.spoolMegabytes() * 1024L * 1024L;
        if (folder != null) {
            PrivateFolder.ready(folder);
            recover();
        }
        writer = new GroupCommit<>(
                "spool",
                new GroupCommit.Limits<>(MOST_WAITING, LARGEST_GROUP, arrival -> arrival.body().length),
                this::write);
    }

    private void recover() throws IOException {
        for (Path file : Segment.in(folder)) {
            segments.add(Segment.open(file));
        }
        String[] drained = drained().split(" ");
        long number = Long.parseLong(drained[0]);
        while (!segments.isEmpty() && segments.peek().number() < number) {
            segments.poll().delete();
        }
        if (!segments.isEmpty() && segments.peek().number() == number) {
            position = Long.parseLong(drained[1]);
        }
        long left = 0;
        for (Segment segment : segments) {
            long at = segment == segments.peek() ? position : 0;
            for (Segment.Entry entry = segment.read(at); entry != null; entry = segment.read(at)) {
                Arrival arrival = SpooledArrival.decode(entry.bytes());
                count(arrival.received(), 1);
                blocks.add(segment, at, arrival.id().value());
                at = entry.next();
                left++;
            }
        }
        waiting.set(left);
        if (left > 0) {
            log.info("{} messages wait in the spool since before the start", left);
            oldest = next(1).getFirst().received();
        }
    }

    private String drained() throws IOException {
        try {
            return Files.readString(folder.resolve(POSITION));
        } catch (NoSuchFileException e) {
            return "0 0";
        }
    }

    /** Bytes that are free on the disk it lies on; the most there can be if it is off. */
    public long diskFree() {
        return isOn() ? folder.toFile().getUsableSpace() : Long.MAX_VALUE;
    }

    public boolean isOn() {
        return folder != null;
    }

    /** Whether anything is in it, or on its way in: then everything of this node goes through it. */
    public boolean isActive() {
        return waiting.get() > 0;
    }

    /**
     * Completed once the disk has it, or exceptionally if it has not.
     *
     * @throws JournalUnavailable if there is no spool, or it is full
     */
    public CompletableFuture<Void> keep(Arrival arrival) {
        if (!isOn()) {
            throw new JournalUnavailable("the database is away, and this installation has no spool", null);
        }
        waiting.incrementAndGet();
        CompletableFuture<Void> kept;
        try {
            kept = writer.submit(arrival);
        } catch (JournalUnavailable e) {
            waiting.decrementAndGet();
            throw e;
        }
        return kept.whenComplete((nothing, failure) -> {
            if (failure != null) {
                waiting.decrementAndGet();
            }
        });
    }

    private synchronized List<Void> write(List<Arrival> group) {
        List<byte[]> records = group.stream().map(SpooledArrival::encode).toList();
        long size = records.stream().mapToLong(record -> record.length).sum();
        if (bytes() + size > limit) {
            throw refused("the spool is full: " + (limit >> 20) + " MB wait in it for the database", null);
        }
        try {
            if (segments.isEmpty() || segments.peekLast().end() > SEGMENT_BYTES) {
                long number =
                        segments.isEmpty() ? firstNumber() : segments.peekLast().number() + 1;
                segments.add(Segment.make(folder, number));
            }
            append(segments.peekLast(), group, records);
        } catch (IOException e) {
            throw refused("the spool cannot be written: " + e.getMessage(), e);
        }
        trouble = null;
        group.forEach(arrival -> count(arrival.received(), 1));
        if (oldest == null) {
            oldest = group.getFirst().received();
        }
        return Collections.nCopies(group.size(), null);
    }

    private void append(Segment segment, List<Arrival> group, List<byte[]> records) throws IOException {
        long at = segment.end();
        segment.append(records);
        for (int i = 0; i < records.size(); i++) {
            blocks.add(segment, at, group.get(i).id().value());
            at += Segment.length(records.get(i));
        }
    }

    private void count(Instant received, long change) {
        minutes.merge(received.truncatedTo(ChronoUnit.MINUTES), change, (a, b) -> a + b == 0 ? null : a + b);
    }

    private long firstNumber() throws IOException {
        return Long.parseLong(drained().split(" ")[0]) + 1;
    }

    private JournalUnavailable refused(String why, IOException cause) {
        if (trouble == null) {
            log.error("Nothing more is taken: {}", why);
        }
        trouble = why;
        return new JournalUnavailable(why, cause);
    }

    private long bytes() {
        return segments.stream().mapToLong(Segment::end).sum() - position;
    }

    /** The first of those that wait, in the order they came, at most so many, and no more once they have {@value #NEXT_BYTES}. */
    public synchronized List<Arrival> next(int most) {
        List<Arrival> next = new ArrayList<>();
        long bytes = 0;
        long at = position;
        try {
            for (Segment segment : segments) {
                while (next.size() < most && bytes < NEXT_BYTES) {
                    Segment.Entry entry = segment.read(at);
                    if (entry == null) {
                        break;
                    }
                    Arrival arrival = SpooledArrival.decode(entry.bytes());
                    next.add(arrival);
                    bytes += arrival.body().length;
                    at = entry.next();
                }
                at = 0;
            }
        } catch (IOException e) {
            throw new UncheckedIOException("the spool cannot be read", e);
        }
        return next;
    }

    /** An arrival that waits in it. */
    public Optional<Arrival> find(MessageId id) {
        List<Blocks.Block> candidates;
        synchronized (this) {
            candidates = blocks.around(id);
        }
        for (Blocks.Block block : candidates) {
            try {
                long at = block.from();
                for (int i = 0; i < block.records(); i++) {
                    Segment.Entry entry = block.segment().read(at);
                    Arrival arrival = entry == null ? null : SpooledArrival.decode(entry.bytes());
                    if (arrival != null && arrival.id().equals(id)) {
                        return Optional.of(arrival);
                    }
                    at = entry == null ? at : entry.next();
                }
            } catch (IOException e) {
                // Drained meanwhile: it is in the journal now.
                log.debug("A part of the spool is gone: {}", e.getMessage());
            }
        }
        return Optional.empty();
    }

    /** The first so many stand in the journal now. */
    public synchronized void drained(int count) {
        try {
            int left = count;
            while (left > 0) {
                Segment.Entry entry = segments.peek().read(position);
                if (entry == null) {
                    blocks.forget(segments.peek());
                    segments.poll().delete();
                    position = 0;
                } else {
                    count(SpooledArrival.decode(entry.bytes()).received(), -1);
                    position = entry.next();
                    waiting.decrementAndGet();
                    left--;
                }
            }
            while (!segments.isEmpty() && position == segments.peek().end() && position > 0) {
                note(segments.peek().number() + 1, 0);
                blocks.forget(segments.peek());
                segments.poll().delete();
                position = 0;
            }
            if (!segments.isEmpty()) {
                note(segments.peek().number(), position);
            }
        } catch (IOException e) {
            throw new UncheckedIOException("the spool cannot be brought forward", e);
        }
        List<Arrival> first = next(1);
        oldest = first.isEmpty() ? null : first.getFirst().received();
    }

    /** Where that cannot be written, as on a full disk, more is read again after a crash, and nothing else is wrong. */
    private void note(long number, long at) {
        Path fresh = folder.resolve(POSITION + ".new");
        try {
            Files.writeString(fresh, number + " " + at);
            Files.move(
                    fresh,
                    folder.resolve(POSITION),
                    StandardCopyOption.ATOMIC_MOVE,
                    StandardCopyOption.REPLACE_EXISTING);
        } catch (IOException e) {
            log.warn("How far the spool is drained could not be written down: {}", e.toString());
        }
    }

    public synchronized State state() {
        return new State(isOn(), waiting.get(), isOn() ? bytes() : 0, limit, oldest, trouble, new TreeMap<>(minutes));
    }

    @Override
    public void close() throws IOException {
        writer.close();
        synchronized (this) {
            for (Segment segment : segments) {
                segment.close();
            }
        }
    }
}
