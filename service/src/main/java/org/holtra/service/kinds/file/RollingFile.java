package org.holtra.service.kinds.file;

import java.io.IOException;
import java.io.RandomAccessFile;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.Arrays;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * A file that is appended to under a name of its own, and renamed to its final one, by which readers find it, once it is large
 * or old enough: what has a final name is complete and changes no more. A line that was cut off by a crash is taken out before
 * more is appended; it was never acknowledged.
 */
final class RollingFile implements AutoCloseable {

    /** @param bytes and {@code age} at which it is renamed */
    record Bounds(long bytes, Duration age) {}

    private static final String OPEN = ".open";
    private static final DateTimeFormatter STAMP =
            DateTimeFormatter.ofPattern("yyyyMMdd'T'HHmmss'Z'").withZone(ZoneOffset.UTC);
    private static final Logger log = LoggerFactory.getLogger(RollingFile.class);

    private final Path folder;
    private final String name;
    private final String node;
    private final Bounds bounds;
    private final InstantSource clock;
    private FileChannel channel;
    private byte[] header;
    private Instant begun;

    RollingFile(Path folder, String name, String node, Bounds bounds, InstantSource clock) {
        this.folder = folder;
        this.name = name;
        this.node = node.replaceAll("[^A-Za-z0-9_-]", "_");
        this.bounds = bounds;
        this.clock = clock;
    }

    @Override
    public String toString() {
        return folder.resolve(name).toString();
    }

    private Path open() {
        return folder.resolve("." + name + "." + node + OPEN);
    }

    /**
     * Appends lines, and returns once they are on the disk.
     *
     * @param columns the line that a new file begins with; a file that begins with another one is renamed first; empty for none
     * @return where they are for now
     */
    synchronized Path append(byte[] columns, byte[] lines) throws IOException {
        long before = 0;
        try {
            begin();
            if (channel.size() > 0 && (columns.length > 0 && !Arrays.equals(columns, header) || isDue())) {
                roll();
                begin();
            }
            if (channel.size() == 0) {
                write(columns);
                header = columns;
                begun = clock.instant();
            }
            before = channel.size();
            write(lines);
            channel.force(false);
            return open();
        } catch (IOException e) {
            takeBack(before);
            throw e;
        }
    }

    private void begin() throws IOException {
        if (channel != null) {
            return;
        }
        Files.createDirectories(folder);
        Path file = open();
        boolean there = Files.exists(file);
        channel = FileChannel.open(file, StandardOpenOption.CREATE, StandardOpenOption.READ, StandardOpenOption.WRITE);
        if (there) {
            cutTornLine(file);
        }
        header = header(file);
        begun = there ? Files.getLastModifiedTime(file).toInstant() : clock.instant();
        channel.position(channel.size());
    }

    private void cutTornLine(Path file) throws IOException {
        try (RandomAccessFile reader = new RandomAccessFile(file.toFile(), "r")) {
            long end = reader.length();
            while (end > 0) {
                reader.seek(end - 1);
                if (reader.read() == '\n') {
                    break;
                }
                end--;
            }
            if (end < reader.length()) {
                log.warn("The last line of {} was cut off, and is taken out", file);
                channel.truncate(end);
            }
        }
    }

    private static byte[] header(Path file) throws IOException {
        try (RandomAccessFile reader = new RandomAccessFile(file.toFile(), "r")) {
            byte[] first = FilePage.header(reader);
            return first == null ? new byte[0] : first;
        } catch (FilePage.TooLong e) {
            return new byte[0]; // no line of names is that long
        }
    }

    private void write(byte[] bytes) throws IOException {
        ByteBuffer buffer = ByteBuffer.wrap(bytes);
        while (buffer.hasRemaining()) {
            channel.write(buffer);
        }
    }

    private boolean isDue() throws IOException {
        return channel.size() >= bounds.bytes || !clock.instant().isBefore(begun.plus(bounds.age));
    }

    /** Gives it its final name if it is large or old enough. */
    synchronized void rollIfDue() throws IOException {
        if (channel == null && Files.exists(open())) {
            begin();
        }
        if (channel != null && channel.size() > 0 && isDue()) {
            roll();
        }
    }

    private void roll() throws IOException {
        channel.close();
        channel = null;
        Files.move(open(), target(), StandardCopyOption.ATOMIC_MOVE);
    }

    /** A name that no file has: what has its final name is never written again. */
    private Path target() {
        int dot = name.lastIndexOf('.');
        String stem = dot < 0 ? name : name.substring(0, dot);
        String extension = dot < 0 ? "" : name.substring(dot);
        String begin = stem + "-" + STAMP.format(clock.instant()) + "-" + node;
        Path target = folder.resolve(begin + extension);
        for (int number = 2; Files.exists(target); number++) {
            target = folder.resolve(begin + "-" + number + extension);
        }
        return target;
    }

    /** What was written last may be there in part, and will be written again. */
    private void takeBack(long size) {
        try {
            if (channel != null && channel.size() > size) {
                channel.truncate(size);
            }
        } catch (IOException e) {
            log.warn(
                    "{} could not be cut to what was acknowledged, and may hold lines twice: {}", open(), e.toString());
        }
        close();
    }

    @Override
    public synchronized void close() {
        if (channel != null) {
            try {
                channel.close();
            } catch (IOException e) {
                log.warn("{} could not be closed: {}", open(), e.toString());
            }
            channel = null;
        }
    }
}
