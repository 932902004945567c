package org.holtra.service.dispatch;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Deque;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;

/**
 * What waits in memory for one outlet: a bounded queue a lane, served in turn, so that a busy lane does not keep a quiet
 * one waiting. What stands in a line goes one after the other. Not safe for use by several threads; its runner guards it.
 */
final class LaneQueues {

    /** What one lane may have in memory, reserved places included. */
    static final int BOUND = 2_000;

    /** Deliveries of one device on a lane that keeps order. */
    private static final class Line {
        private final Deque<Job> jobs = new ArrayDeque<>();
        private int reserved;
        private boolean busy;
        /** The one before went back to the table; what was about to join this line must follow it there. */
        private boolean stalled;

        private boolean isIdle() {
            return !busy && reserved == 0 && jobs.isEmpty();
        }
    }

    private static final class Queue {
        private final Deque<Job> jobs = new ArrayDeque<>();
        private final Map<String, Line> lines = new HashMap<>();
        private final Deque<Line> ready = new ArrayDeque<>();
        private final LinesInTable table = new LinesInTable();
        private int size;
        private int reserved;

        private int room() {
            return BOUND - size - reserved;
        }

        private Line line(String name) {
            return lines.computeIfAbsent(name, fresh -> new Line());
        }

        private void forgetIfIdle(String name) {
            Line line = lines.get(name);
            if (line != null && line.reserved == 0) {
                line.stalled = false;
            }
            if (line != null && line.isIdle()) {
                lines.remove(name);
            }
        }
    }

    private final MemoryBudget budget;
    private final Map<String, Queue> queues = new LinkedHashMap<>();
    private int size;

    LaneQueues(MemoryBudget budget) {
        this.budget = budget;
    }

    boolean isEmpty() {
        return size == 0;
    }

    int size() {
        return size;
    }

    /** Of all that waits. */
    Set<UUID> ids() {
        Set<UUID> ids = new HashSet<>();
        for (Queue queue : queues.values()) {
            queue.jobs.forEach(job -> ids.add(job.delivery().id()));
            queue.lines
                    .values()
                    .forEach(line ->
                            line.jobs.forEach(job -> ids.add(job.delivery().id())));
        }
        return ids;
    }

    private Queue queue(String lane) {
        return queues.computeIfAbsent(lane, name -> new Queue());
    }

    /** Of a lane's lines, those that have something in the table. */
    LinesInTable table(String lane) {
        return queue(lane).table;
    }

    /**
     * Keeps a place for a job that is about to be committed; false if there is none, or if it would overtake what its line
     * has in the table. Then {@link LinesInTable#arrived} must be told once it is committed.
     *
     * @param line null if it stands in none
     */
    boolean reserve(String lane, String line, long bytes) {
        Queue queue = queue(lane);
        boolean behind = line != null && queue.table.has(line);
        if (behind || queue.room() <= 0 || !budget.take(bytes)) {
            if (line != null) {
                queue.table.leaves(line);
            }
            return false;
        }
        queue.reserved++;
        if (line != null) {
            queue.line(line).reserved++;
        }
        return true;
    }

    void unreserve(String lane, String line, long bytes) {
        Queue queue = queue(lane);
        if (free(queue, line)) {
            budget.give(bytes);
        }
    }

    private static boolean free(Queue queue, String line) {
        if (queue.reserved == 0) {
            return false;
        }
        queue.reserved--;
        if (line != null) {
            Line of = queue.lines.get(line);
            if (of == null || of.reserved == 0) {
                return true;
            }
            of.reserved--;
            queue.forgetIfIdle(line);
        }
        return true;
    }

    /** Fills a reserved place; false if what stood before it went back to the table, where it must follow. */
    boolean fill(Job job) {
        Queue queue = queue(job.lane());
        Line line = job.line() == null ? null : queue.lines.get(job.line());
        boolean stalled = line != null && line.stalled;
        free(queue, job.line());
        if (stalled) {
            queue.table.leaves(job.line());
            budget.give(job.bytes());
            return false;
        }
        enqueue(queue, job);
        return true;
    }

    /** Adds what was claimed from the table, room or not; claims are small. */
    void add(Job job) {
        budget.force(job.bytes());
        enqueue(queue(job.lane()), job);
    }

    private void enqueue(Queue queue, Job job) {
        if (job.line() == null) {
            queue.jobs.add(job);
        } else {
            Line line = queue.line(job.line());
            line.jobs.add(job);
            if (!line.busy && line.jobs.size() == 1) {
                queue.ready.add(line);
            }
        }
        queue.size++;
        size++;
    }

    /** The next job, of the lane whose turn it is. It is the caller's to give back, by {@link #done}. */
    Optional<Job> next() {
        Iterator<Map.Entry<String, Queue>> lanes = queues.entrySet().iterator();
        while (lanes.hasNext()) {
            Map.Entry<String, Queue> lane = lanes.next();
            Queue queue = lane.getValue();
            Job job = take(queue);
            if (job != null) {
                queue.size--;
                size--;
                lanes.remove();
                queues.put(lane.getKey(), queue);
                return Optional.of(job);
            }
        }
        return Optional.empty();
    }

    /** The job that is next, which stays where it is. */
    Optional<Job> peek() {
        for (Queue queue : queues.values()) {
            Line line = queue.ready.peek();
            Job job = !queue.jobs.isEmpty() || line == null ? queue.jobs.peek() : line.jobs.peek();
            if (job != null) {
                return Optional.of(job);
            }
        }
        return Optional.empty();
    }

    private static Job take(Queue queue) {
        Job job = queue.jobs.poll();
        if (job != null) {
            return job;
        }
        Line line = queue.ready.poll();
        if (line == null) {
            return null;
        }
        line.busy = true;
        return line.jobs.poll();
    }

    /** The job was taken out and has not been tried: it stands first again. */
    void back(Job job) {
        Queue queue = queue(job.lane());
        if (job.line() == null) {
            queue.jobs.addFirst(job);
        } else {
            Line line = queue.line(job.line());
            line.busy = false;
            line.jobs.addFirst(job);
            queue.ready.addFirst(line);
        }
        queue.size++;
        size++;
    }

    /**
     * The job is settled, or back in the table; its line goes on.
     *
     * @return whether its line is at its end here, and has more in the table
     */
    boolean done(Job job) {
        budget.give(job.bytes());
        if (job.line() == null) {
            return false;
        }
        Queue queue = queue(job.lane());
        Line line = queue.line(job.line());
        line.busy = false;
        if (!line.jobs.isEmpty()) {
            queue.ready.add(line);
            return false;
        }
        queue.forgetIfIdle(job.line());
        return queue.table.has(job.line());
    }

    /** A job is about to go back to the table: takes out what stands behind it, which must follow. */
    List<Job> stall(Job job) {
        if (job.line() == null) {
            return List.of();
        }
        Queue queue = queue(job.lane());
        Line line = queue.line(job.line());
        line.stalled = line.reserved > 0;
        List<Job> behind = new ArrayList<>(line.jobs);
        line.jobs.clear();
        queue.size -= behind.size();
        size -= behind.size();
        queue.table.leaves(job.line());
        behind.forEach(one -> {
            queue.table.leaves(one.line());
            budget.give(one.bytes());
        });
        return behind;
    }

    /** Takes out all that waits, of lanes other than these; it goes back to the table. */
    List<Job> removeAllBut(Collection<String> lanes) {
        List<Job> removed = new ArrayList<>();
        queues.forEach((lane, queue) -> {
            if (!lanes.contains(lane)) {
                removed.addAll(empty(queue));
            }
        });
        removed.stream()
                .filter(job -> job.line() != null)
                .forEach(job -> queue(job.lane()).table.leaves(job.line()));
        return removed;
    }

    /** Takes out all that waits. */
    List<Job> abandon() {
        doubtAll();
        return removeAllBut(List.of());
    }

    private List<Job> empty(Queue queue) {
        List<Job> removed = new ArrayList<>(queue.jobs);
        queue.jobs.clear();
        for (Line line : queue.lines.values()) {
            removed.addAll(line.jobs);
            line.jobs.clear();
            line.stalled = line.reserved > 0;
        }
        queue.ready.clear();
        queue.lines.values().removeIf(Line::isIdle);
        size -= queue.size;
        queue.size = 0;
        removed.forEach(job -> budget.give(job.bytes()));
        return removed;
    }

    void doubtAll() {
        queues.values().forEach(queue -> queue.table.doubtAll());
    }
}
