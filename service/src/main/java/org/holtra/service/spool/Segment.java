package org.holtra.service.spool;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.List;
import java.util.zip.CRC32C;

/**
 * One file of the spool: records one after another, each its length (4 bytes, big-endian), the CRC-32C (RFC 9260, appendix
 * A) of its bytes (4 bytes) and its bytes. A record that is cut off or does not agree with its sum ends the file: it was
 * never promised to anybody.
 */
final class Segment implements AutoCloseable {

    private static final int HEAD = 8;
    private static final String SUFFIX = ".spool";

    /**
     * @param next where the record after it begins
     */
    record Entry(byte[] bytes, long next) {}

    private final Path file;
    private final long number;
    private final FileChannel channel;
    private long end;

    private Segment(Path file, long number, FileChannel channel, long end) {
        this.file = file;
        this.number = number;
        this.channel = channel;
        this.end = end;
    }

    static Segment make(Path folder, long number) throws IOException {
        Path file = folder.resolve("%012d".formatted(number) + SUFFIX);
        FileChannel channel = FileChannel.open(
                file, StandardOpenOption.CREATE_NEW, StandardOpenOption.READ, StandardOpenOption.WRITE);
        try (FileChannel directory = FileChannel.open(folder, StandardOpenOption.READ)) {
            directory.force(true);
        }
        return new Segment(file, number, channel, 0);
    }

    /** Opens a file that an earlier process left, up to its last whole record. */
    static Segment open(Path file) throws IOException {
        long number = Long.parseLong(file.getFileName().toString().replace(SUFFIX, ""));
        FileChannel channel = FileChannel.open(file, StandardOpenOption.READ, StandardOpenOption.WRITE);
        Segment segment = new Segment(file, number, channel, channel.size());
        long at = 0;
        Entry entry = segment.read(at);
        while (entry != null) {
            at = entry.next;
            entry = segment.read(at);
        }
        channel.truncate(at);
        segment.end = at;
        return segment;
    }

    /** In the order in which they were written. */
    static List<Path> in(Path folder) throws IOException {
        try (var files = Files.list(folder)) {
            return files.filter(file -> file.getFileName().toString().endsWith(SUFFIX))
                    .sorted()
                    .toList();
        }
    }

    long number() {
        return number;
    }

    /** In bytes, of whole records. */
    long end() {
        return end;
    }

    /**
     * Writes records and waits until the disk has them. If that fails none of them is there.
     *
     * @throws IOException if the disk is full, or fails
     */
    void append(List<byte[]> records) throws IOException {
        int size = records.stream().mapToInt(bytes -> HEAD + bytes.length).sum();
        ByteBuffer buffer = ByteBuffer.allocate(size);
        for (byte[] bytes : records) {
            buffer.putInt(bytes.length).putInt(sum(bytes)).put(bytes);
        }
        buffer.flip();
        try {
            long at = end;
            while (buffer.hasRemaining()) {
                at += channel.write(buffer, at);
            }
            channel.force(true);
            end = at;
        } catch (IOException e) {
            try {
                channel.truncate(end);
            } catch (IOException f) {
                e.addSuppressed(f);
            }
            throw e;
        }
    }

    /** The record at a place; null if there is none, or none that is whole. */
    Entry read(long at) throws IOException {
        if (at + HEAD > end) {
            return null;
        }
        ByteBuffer head = ByteBuffer.allocate(HEAD);
        fill(head, at);
        int length = head.getInt(0);
        if (length < 0 || at + HEAD + length > end) {
            return null;
        }
        ByteBuffer body = ByteBuffer.allocate(length);
        fill(body, at + HEAD);
        return sum(body.array()) == head.getInt(4) ? new Entry(body.array(), at + HEAD + length) : null;
    }

    /** How much a record takes. */
    static long length(byte[] record) {
        return HEAD + record.length;
    }

    /** All records from a place on. */
    List<byte[]> from(long at) throws IOException {
        List<byte[]> records = new ArrayList<>();
        for (Entry entry = read(at); entry != null; entry = read(entry.next)) {
            records.add(entry.bytes);
        }
        return records;
    }

    private void fill(ByteBuffer buffer, long at) throws IOException {
        while (buffer.hasRemaining()) {
            if (channel.read(buffer, at + buffer.position()) < 0) {
                throw new IOException(file + " is shorter than it was");
            }
        }
    }

    private static int sum(byte[] bytes) {
        CRC32C sum = new CRC32C();
        sum.update(bytes);
        return (int) sum.getValue();
    }

    void delete() throws IOException {
        channel.close();
        Files.delete(file);
    }

    @Override
    public void close() throws IOException {
        channel.close();
    }
}
