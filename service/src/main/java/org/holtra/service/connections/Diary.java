package org.holtra.service.connections;

import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.atomic.AtomicLong;
import org.holtra.service.cluster.Node;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/**
 * What happened to inlets and outlets, a line each, of all nodes; the last {@value #KEPT} of each are kept. Lines are written
 * a moment after they happen, so that nothing waits for them; those that cannot be held until then are counted.
 */
@Component
public class Diary {

    /** Of one inlet or outlet. */
    public static final int KEPT = 200;

    private static final int MOST_UNWRITTEN = 2_000;
    private static final int AT_ONCE = 500;
    private static final int LONGEST_LINE = 300;
    private static final int LONGEST_DETAIL = 2_000;
    private static final Logger log = LoggerFactory.getLogger(Diary.class);

    /**
     * One line.
     *
     * @param node that it happened on
     * @param line in the words of operators
     * @param detail what only somebody who looks for the cause wants to read; or null
     */
    public record Line(Instant at, String node, String line, String detail) {}

    record Unwritten(Thing thing, Line line) {}

    private final DiaryMapper mapper;
    private final Node node;
    private final InstantSource clock;
    private final BlockingQueue<Unwritten> unwritten = new ArrayBlockingQueue<>(MOST_UNWRITTEN);
    private final AtomicLong lost = new AtomicLong();

    Diary(DiaryMapper mapper, Node node, InstantSource clock) {
        this.mapper = mapper;
        this.node = node;
        this.clock = clock;
    }

    /** What a check found wrong, with what to do about it. */
    public void writeFailures(Thing thing, List<CheckStep> steps) {
        steps.stream()
                .filter(step -> step.result() == CheckStep.Result.FAILED)
                .forEach(step -> write(thing, "check: " + step.step() + " failed: " + step.told(), step.mend()));
    }

    /** @param detail or null */
    public void write(Thing thing, String line, String detail) {
        Line one = new Line(clock.instant(), node.name(), cut(line, LONGEST_LINE), cut(detail, LONGEST_DETAIL));
        if (!unwritten.offer(new Unwritten(thing, one))) {
            lost.incrementAndGet();
        }
    }

    private static String cut(String text, int longest) {
        return text == null || text.length() <= longest ? text : text.substring(0, longest) + "…";
    }

    /** Called every so often. */
    public void flush() {
        List<Unwritten> lines = new ArrayList<>();
        while (unwritten.drainTo(lines, AT_ONCE) > 0) {
            try {
                write(lines);
            } catch (DataAccessException | TransactionException e) {
                // They are about now; after a long outage there are newer ones to tell.
                lines.stream().filter(line -> !unwritten.offer(line)).forEach(line -> lost.incrementAndGet());
                throw e;
            }
            lines.clear();
        }
        long missing = lost.getAndSet(0);
        if (missing > 0) {
            log.warn("{} lines of the diaries of inlets and outlets were lost: too many came at once", missing);
        }
    }

    private void write(List<Unwritten> lines) {
        mapper.insert(
                lines.stream().map(line -> line.thing().sort().word()).toArray(String[]::new),
                lines.stream().map(line -> line.thing().name()).toArray(String[]::new),
                lines.stream().map(line -> line.line().at()).toArray(Instant[]::new),
                lines.stream().map(line -> line.line().node()).toArray(String[]::new),
                lines.stream().map(line -> line.line().line()).toArray(String[]::new),
                lines.stream().map(line -> line.line().detail()).toArray(String[]::new));
        Set<Thing> things = new LinkedHashSet<>();
        lines.forEach(line -> things.add(line.thing()));
        things.forEach(thing -> mapper.prune(thing.sort().word(), thing.name(), KEPT));
    }

    /** The newest first. */
    public List<Line> of(Thing thing) {
        return mapper.of(thing.sort().word(), thing.name(), KEPT);
    }
}
