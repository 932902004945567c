package org.holtra.service.balance;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.MappedByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.List;
import java.util.NavigableMap;
import java.util.TreeMap;
import java.util.UUID;
import org.holtra.core.message.MessageId;
import org.holtra.service.settings.PrivateFolder;

/**
 * What was acknowledged, in the order it was, from the moment it is until the database knows. It lies in files that are mapped
 * into memory: to note something costs no call of the system, and what was noted outlives the process, however that ends.
 * What the disk has not got yet when the machine itself goes down is lost; it is told to write once a second.
 *
 * <p>Each record is the length of the inlet's name (1 byte, 1 to 127; its highest bit tells that the message was ignored), the
 * name in UTF-8, and the message's id (16 bytes).
 * Positions count on through all files and all processes that wrote here.
 */
final class AcknowledgementLog implements AutoCloseable {

    /** @param next the position of what follows */
    record Entry(String inlet, MessageId id, boolean ignored, long next) {}

    private static final int SEGMENT = 4 << 20;
    private static final int ID = 16;
    private static final int LONGEST_NAME = 127;
    private static final int IGNORED = 0x80;
    private static final int LONGEST = 1 + LONGEST_NAME + ID;
    private static final String SUFFIX = ".acks";
    private static final String NAME = "acknowledgements";

    private final Path folder;
    private final UUID name;
    private final NavigableMap<Long, ByteBuffer> segments = new TreeMap<>();
    private int at;
    private boolean unforced;

    /** @param folder null to keep it in memory only, where it does not outlive the process */
    AcknowledgementLog(Path folder) {
        this.folder = folder;
        try {
            this.name = folder == null ? UUID.randomUUID() : nameIn(folder);
            if (folder != null) {
                recover();
            }
            begin(segments.isEmpty() ? 0 : segments.lastKey() + 1);
        } catch (IOException e) {
            throw new UncheckedIOException("the log of acknowledgements cannot be opened in " + folder, e);
        }
    }

    private static UUID nameIn(Path folder) throws IOException {
        PrivateFolder.ready(folder);
        Path file = folder.resolve(NAME);
        if (!Files.exists(file)) {
            Files.writeString(file, UUID.randomUUID().toString());
        }
        return UUID.fromString(Files.readString(file).strip());
    }

    private void recover() throws IOException {
        try (var files = Files.list(folder)) {
            for (Path file :
                    files.filter(one -> one.toString().endsWith(SUFFIX)).toList()) {
                long number = Long.parseLong(file.getFileName().toString().replace(SUFFIX, ""));
                segments.put(number, map(file));
            }
        }
    }

    private static MappedByteBuffer map(Path file) throws IOException {
        try (FileChannel channel =
                FileChannel.open(file, StandardOpenOption.CREATE, StandardOpenOption.READ, StandardOpenOption.WRITE)) {
            return channel.map(FileChannel.MapMode.READ_WRITE, 0, SEGMENT);
        }
    }

    private Path file(long number) {
        return folder.resolve("%012d".formatted(number) + SUFFIX);
    }

    private void begin(long number) throws IOException {
        segments.put(number, folder == null ? ByteBuffer.allocate(SEGMENT) : map(file(number)));
        at = 0;
    }

    /** Tells this log from all others. */
    UUID name() {
        return name;
    }

    synchronized void add(String inlet, MessageId id, boolean ignored) {
        byte[] words = inlet.getBytes(StandardCharsets.UTF_8);
        if (words.length == 0 || words.length > LONGEST_NAME) {
            throw new IllegalArgumentException(
                    "an inlet's name has 1 to " + LONGEST_NAME + " bytes, this one has " + words.length);
        }
        if (at + LONGEST >= SEGMENT) {
            try {
                begin(segments.lastKey() + 1);
            } catch (IOException e) {
                throw new UncheckedIOException("the log of acknowledgements cannot be written", e);
            }
        }
        ByteBuffer segment = segments.lastEntry().getValue();
        segment.put(at + 1, words);
        segment.putLong(at + 1 + words.length, id.value().getMostSignificantBits());
        segment.putLong(at + 9 + words.length, id.value().getLeastSignificantBits());
        // The length comes last: a record that is not whole when the process ends is none.
        segment.put(at, (byte) (ignored ? words.length | IGNORED : words.length));
        at += 1 + words.length + ID;
        unforced = true;
    }

    /** What was noted from a position on, at most so many. What is no longer there is left out. */
    synchronized List<Entry> from(long position, int most) {
        List<Entry> entries = new ArrayList<>();
        long number = Math.max(position / SEGMENT, segments.firstKey());
        int offset = number == position / SEGMENT ? (int) (position % SEGMENT) : 0;
        for (ByteBuffer segment : segments.tailMap(number, true).values()) {
            while (entries.size() < most && offset + LONGEST <= SEGMENT && segment.get(offset) != 0) {
                int first = segment.get(offset) & 0xff;
                int length = first & ~IGNORED;
                byte[] words = new byte[length];
                segment.get(offset + 1, words);
                UUID id = new UUID(segment.getLong(offset + 1 + length), segment.getLong(offset + 9 + length));
                offset += 1 + length + ID;
                entries.add(new Entry(
                        new String(words, StandardCharsets.UTF_8),
                        new MessageId(id),
                        first != length,
                        number * SEGMENT + offset));
            }
            if (entries.size() >= most) {
                break;
            }
            number++;
            offset = 0;
        }
        return entries;
    }

    /** The database has what stands before this position. */
    synchronized void forget(long position) throws IOException {
        while (segments.size() > 1 && segments.firstKey() < position / SEGMENT) {
            long number = segments.firstKey();
            segments.remove(number);
            if (folder != null) {
                Files.deleteIfExists(file(number));
            }
        }
    }

    /** Has the disk write what was noted, in case the machine goes down. */
    void force() {
        ByteBuffer last;
        synchronized (this) {
            last = unforced ? segments.lastEntry().getValue() : null;
            unforced = false;
        }
        if (last instanceof MappedByteBuffer mapped) {
            mapped.force();
        }
    }

    @Override
    public void close() {
        force();
    }
}
