package org.holtra.service.kinds.file;

import java.io.FileNotFoundException;
import java.io.IOException;
import java.io.RandomAccessFile;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.NotDirectoryException;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.locks.LockSupport;
import java.util.stream.Collectors;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Transport;
import org.holtra.core.reading.content.Format;
import org.holtra.core.setup.Inlet;
import org.holtra.core.text.DurationText;
import org.holtra.service.connections.Connection.State;
import org.holtra.service.intake.Source;
import org.holtra.service.intake.SourceContext;
import org.holtra.service.journal.JournalUnavailable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.transaction.TransactionException;

/**
 * Reads the files of a folder, each line or each file a message. Up to where each has been read is kept with the messages, so
 * that each is read once, whatever breaks.
 */
final class FileSource implements Source {

    private static final Duration USUAL_PAUSE = Duration.ofSeconds(2);
    private static final Duration PAUSE_AFTER_A_FAILURE = Duration.ofSeconds(1);

    private static final Duration PATIENCE_AT_CLOSE = Duration.ofSeconds(5);

    /** Where files go that have been read, inside their folder. */
    private static final String DONE = "done";

    private static final Logger log = LoggerFactory.getLogger(FileSource.class);

    /** What becomes of a file that has been read as a whole, or to its end. */
    private enum After {
        KEEP,
        MOVE,
        DELETE;

        static After of(Object word) {
            return "move".equals(word) ? MOVE : "delete".equals(word) ? DELETE : KEEP;
        }
    }

    private final SourceContext context;
    private final Path folder;
    private final String pattern;
    private final boolean whole;
    private final After after;
    private final Duration every;
    private final Thread thread;

    /** Files that something is wrong with, told of once. */
    private final Set<String> troubled = new HashSet<>();

    /** As the last look found them. */
    private Set<FoundFile> seen = Set.of();

    /** The cursor as the journal has it; null while that is not known. */
    private String stored;

    private Places places;
    private volatile boolean paused;
    private volatile boolean closed;

    private FileSource(SourceContext context, FileRoot root) {
        Map<String, Object> at = context.inlet().at();
        this.context = context;
        this.folder = root.folder(String.valueOf(at.get("folder")));
        this.pattern = pattern(context.inlet());
        this.whole = "file".equals(at.get("each"));
        this.after = After.of(at.get("after"));
        this.every = at.get("every") instanceof String text ? DurationText.parse(text) : USUAL_PAUSE;
        this.thread =
                Thread.ofVirtual().name("file-inlet-" + context.inlet().name()).unstarted(this::run);
    }

    static String pattern(Inlet inlet) {
        return inlet.at().get("files") instanceof String text ? text : "*";
    }

    /** @throws IllegalArgumentException if its folder may not be used */
    static FileSource start(SourceContext context, FileRoot root) {
        FileSource source = new FileSource(context, root);
        context.connection().become(State.CONNECTING, "looks into the folder");
        source.thread.start();
        return source;
    }

    private void run() {
        while (!closed) {
            if (paused) {
                stored = null;
                pause(USUAL_PAUSE);
                continue;
            }
            try {
                if (stored == null) {
                    stored = context.cursor();
                    places = Places.of(stored);
                }
                look();
                pause(every);
            } catch (JournalUnavailable | DataAccessException | TransactionException e) {
                // Nothing is lost: it is read again, from where the cursor stands.
                context.connection().become(State.WAITING, "what was read cannot be kept now", e.toString());
                stored = null;
                pause(PAUSE_AFTER_A_FAILURE);
            } catch (IOException | FoundFile.TooMany e) {
                context.connection().become(State.WAITING, words(e), e.toString());
                pause(every);
            } catch (RuntimeException e) {
                log.error("Inlet {} failed, and goes on", context.inlet().name(), e);
                context.connection()
                        .become(State.WAITING, "Holtra failed, which is a defect of Holtra's", e.toString());
                stored = null;
                pause(PAUSE_AFTER_A_FAILURE);
            }
        }
    }

    private String words(Exception e) {
        return switch (e) {
            case NoSuchFileException missing -> "there is no folder `" + folder + "`; make it, or name another";
            case NotDirectoryException file -> "`" + folder + "` is no folder";
            case FoundFile.TooMany many -> many.getMessage();
            default -> "the folder `" + folder + "` cannot be read: " + e.getMessage();
        };
    }

    private void look() throws IOException, FoundFile.TooMany {
        List<FoundFile> files = FoundFile.in(folder, pattern);
        context.connection().become(State.CONNECTED, "reads " + folder);
        places = places.only(files.stream().map(FoundFile::name).collect(Collectors.toSet()));
        for (FoundFile file : files) {
            while (!closed && !paused && readSome(file)) {
                // page after page, to its end
            }
            if (seen.contains(file) && isRead(file)) {
                putAway(file);
            }
        }
        seen = Set.copyOf(files);
    }

    /** A file that is one message is another one once it was written anew. */
    private String key(FoundFile file) {
        return whole ? file.key() + "@" + file.modified().toEpochMilli() : file.key();
    }

    private boolean isRead(FoundFile file) {
        return places.read(file.name(), key(file), file.size()) == file.size() && file.size() > 0;
    }

    /** False if there is nothing more to be read of it now. */
    private boolean readSome(FoundFile found) throws IOException {
        if (whole && !seen.contains(found)) {
            return false; // it may still be written
        }
        try (RandomAccessFile file = new RandomAccessFile(found.path().toFile(), "r")) {
            long from = places.read(found.name(), key(found), file.length());
            FilePage page = page(file, found, from);
            if (page.end() == from) {
                return false;
            }
            Places next = places.with(found.name(), key(found), page.end());
            String cursor = next.cursor();
            context.takePage(arrivals(page, found), stored, cursor);
            stored = cursor;
            places = next;
            troubled.remove(found.name());
            return true;
        } catch (FilePage.TooLong e) {
            if (troubled.add(found.name())) {
                context.connection()
                        .note("file `" + found.name() + "` is not read any further: " + e.getMessage(), null);
            }
            return false;
        } catch (FileNotFoundException e) {
            return false; // somebody took it away meanwhile
        }
    }

    private FilePage page(RandomAccessFile file, FoundFile found, long from) throws IOException, FilePage.TooLong {
        if (whole) {
            return from == file.length() ? FilePage.none(from) : FilePage.whole(file);
        }
        if (!isCsv(found)) {
            return FilePage.lines(file, from, null);
        }
        byte[] header = FilePage.header(file);
        return header == null ? FilePage.none(from) : FilePage.lines(file, from == 0 ? header.length : from, header);
    }

    private boolean isCsv(FoundFile file) {
        Format format = context.inlet().contents().format();
        return format == null ? file.name().endsWith(".csv") : format == Format.CSV;
    }

    private List<Arrival> arrivals(FilePage page, FoundFile file) {
        String type = isCsv(file) ? "text/csv" : null;
        List<Arrival> arrivals = new ArrayList<>();
        for (byte[] body : page.bodies()) {
            arrivals.add(new Arrival(
                    context.nextId(),
                    context.inlet().name(),
                    Transport.of("", file.path().toString()).with("file", file.name()),
                    type,
                    body));
        }
        if (!arrivals.isEmpty()) {
            context.connection().good(arrivals.getLast().received());
        }
        return arrivals;
    }

    /** It has been read, and was left alone since. */
    private void putAway(FoundFile file) {
        try {
            switch (after) {
                case DELETE -> Files.deleteIfExists(file.path());
                case MOVE -> move(file);
                case KEEP -> {
                    // It stays, and what was read of it is remembered.
                }
            }
            troubled.remove(file.name());
        } catch (IOException e) {
            if (troubled.add(file.name())) {
                context.connection()
                        .note(
                                "file `" + file.name() + "` was read and cannot be put away: " + e.getMessage(),
                                e.toString());
            }
        }
    }

    private void move(FoundFile file) throws IOException {
        Path done = Files.createDirectories(folder.resolve(DONE));
        Path target = done.resolve(file.name());
        for (int number = 2; Files.exists(target); number++) {
            target = done.resolve(file.name() + "." + number);
        }
        Files.move(file.path(), target);
    }

    private void pause(Duration length) {
        LockSupport.parkNanos(length.toNanos());
    }

    @Override
    public void pause() {
        paused = true;
    }

    @Override
    public void resume() {
        paused = false;
        LockSupport.unpark(thread);
    }

    @Override
    public void close() {
        closed = true;
        LockSupport.unpark(thread);
        try {
            if (!thread.join(PATIENCE_AT_CLOSE)) {
                log.warn(
                        "Inlet {} is still reading, and is left to itself",
                        context.inlet().name());
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
