package org.holtra.service.kinds.file;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.AccessDeniedException;
import java.nio.file.Path;
import java.time.Duration;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.TimeUnit;
import org.holtra.core.delivery.Verdict;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.Content;
import org.holtra.core.text.DurationText;
import org.holtra.service.dispatch.Attempted;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.Request;
import org.holtra.service.dispatch.Sink;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Appends a line for each delivery to a file, and says that it is delivered once the line is on the disk. */
final class FileSink implements Sink {

    private static final long USUAL_BYTES = 64L << 20;
    private static final Duration USUAL_AGE = Duration.ofDays(1);
    private static final Logger log = LoggerFactory.getLogger(FileSink.class);

    /**
     * What sinks share.
     *
     * @param node whose name stands in the names of files: two nodes never write the same one
     * @param rolling rolls files that are due though nothing is written
     */
    record Surroundings(String node, InstantSource clock, ScheduledExecutorService rolling) {}

    private final RollingFile file;
    private final boolean header;
    private final ScheduledFuture<?> due;

    private FileSink(RollingFile file, boolean header, Surroundings around) {
        this.file = file;
        this.header = header;
        this.due = around.rolling.scheduleWithFixedDelay(this::rollIfDue, 1, 1, TimeUnit.SECONDS);
    }

    /** @throws IllegalArgumentException if its folder may not be used */
    static FileSink open(Outlet outlet, FileRoot root, Surroundings around) {
        Map<String, Object> to = outlet.to();
        Path folder = root.folder(String.valueOf(to.get("folder")));
        RollingFile.Bounds bounds = new RollingFile.Bounds(
                to.get("rollBytes") instanceof Number number ? number.longValue() : USUAL_BYTES,
                to.get("rollAfter") instanceof String text ? DurationText.parse(text) : USUAL_AGE);
        return new FileSink(
                new RollingFile(folder, String.valueOf(to.get("file")), around.node, bounds, around.clock),
                !Boolean.FALSE.equals(to.get("header")),
                around);
    }

    private void rollIfDue() {
        try {
            file.rollIfDue();
        } catch (IOException | RuntimeException e) {
            log.warn("{} could not be rolled, and will be tried again: {}", file, e.toString());
        }
    }

    @Override
    public boolean keepsOrderWithin() {
        return true;
    }

    @Override
    public Optional<String> whyNotTogether(Content content) {
        return whyNot(content);
    }

    private static Optional<String> whyNot(Content content) {
        if (content.contentType() == null) {
            return Optional.of("the lane's shape makes no body, and there is nothing to append");
        }
        return !isCsv(content)
                        && new String(content.body(), StandardCharsets.ISO_8859_1)
                                        .strip()
                                        .indexOf('\n')
                                >= 0
                ? Optional.of("its outlet appends a line each, and what the lane's shape made has a line break")
                : Optional.empty();
    }

    private static boolean isCsv(Content content) {
        return content.contentType() != null && content.contentType().startsWith("text/csv");
    }

    @Override
    public Attempted attempt(Request request) {
        Exchange exchange = preview(request);
        Optional<String> whyNot = whyNot(request.content());
        if (whyNot.isPresent()) {
            return Attempted.unanswered(new Verdict.Refused(whyNot.get()), "no line", exchange);
        }
        List<Run> runs = runs(request);
        List<Attempted> parts = new ArrayList<>();
        Attempted last = null;
        for (Run run : runs) {
            if (last == null || last.verdict() instanceof Verdict.Delivered) {
                last = append(run, exchange);
            }
            parts.addAll(Collections.nCopies(run.parts, last));
        }
        return runs.size() == 1
                ? last
                : new Attempted(last.verdict(), last.code(), last.cause(), last.exchange(), parts);
    }

    private Attempted append(Run run, Exchange exchange) {
        try {
            Path written = file.append(run.header, run.rows.toByteArray());
            return new Attempted(
                    new Verdict.Delivered(),
                    "written",
                    "written",
                    exchange.answered(("in " + written).getBytes(StandardCharsets.UTF_8)));
        } catch (AccessDeniedException e) {
            return Attempted.unanswered(
                    new Verdict.OutletBlocked("the service may not write " + e.getFile()), "access denied", exchange);
        } catch (IOException e) {
            return Attempted.unanswered(
                    new Verdict.TryLater("the file cannot be written: " + e.getMessage(), null, false, true),
                    "not writable",
                    exchange);
        }
    }

    /** Parts of a request that follow one another and have the same columns. */
    private static final class Run {

        /** The line that names the columns, with its end; empty if there is none. */
        private final byte[] header;

        private final ByteArrayOutputStream rows = new ByteArrayOutputStream();
        private int parts;

        Run(byte[] header) {
            this.header = header;
        }

        void add(byte[] body) {
            rows.write(body, header.length, body.length - header.length);
            if (body.length > header.length && body[body.length - 1] != '\n') {
                rows.write('\n');
            }
            parts++;
        }
    }

    /** CSV names its columns once at the head of a file, and not again for each delivery. */
    private List<Run> runs(Request request) {
        List<Run> runs = new ArrayList<>();
        for (Request.Part part : request.parts()) {
            byte[] body = part.content().body();
            byte[] names = header && isCsv(part.content())
                    ? Arrays.copyOf(body, new String(body, StandardCharsets.ISO_8859_1).indexOf('\n') + 1)
                    : new byte[0];
            if (runs.isEmpty() || !Arrays.equals(runs.getLast().header, names)) {
                runs.add(new Run(names));
            }
            runs.getLast().add(body);
        }
        return runs;
    }

    @Override
    public Exchange preview(Request request) {
        return new Exchange("append to " + file, Map.of());
    }

    @Override
    public void close() {
        due.cancel(false);
        file.close();
    }
}
