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
        private final Deque<Task> tasks = new ArrayDeque<>();
        private int reserved;
        private boolean busy;
        /** The one before went back to the table; what was about to join this line must follow it there. */
        private boolean stalled;

        private boolean isIdle() {
            return !busy && reserved == 0 && tasks.isEmpty();
        }
    }

    private static final class Queue {
        private final Deque<Task> tasks = new ArrayDeque<>();
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
            queue.tasks.forEach(task -> ids.add(task.delivery().id()));
            queue.lines
                    .values()
                    .forEach(line ->
                            line.tasks.forEach(task -> ids.add(task.delivery().id())));
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
     * Keeps a place for a task that is about to be committed; false if there is none, or if it would overtake what its line
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
    boolean fill(Task task) {
        Queue queue = queue(task.lane());
        Line line = task.line() == null ? null : queue.lines.get(task.line());
        boolean stalled = line != null && line.stalled;
        free(queue, task.line());
        if (stalled) {
            queue.table.leaves(task.line());
            budget.give(task.bytes());
            return false;
        }
        enqueue(queue, task);
        return true;
    }

    /** Adds what was claimed from the table, room or not; claims are small. */
    void add(Task task) {
        budget.force(task.bytes());
        enqueue(queue(task.lane()), task);
    }

    private void enqueue(Queue queue, Task task) {
        if (task.line() == null) {
            queue.tasks.add(task);
        } else {
            Line line = queue.line(task.line());
            line.tasks.add(task);
            if (!line.busy && line.tasks.size() == 1) {
                queue.ready.add(line);
            }
        }
        queue.size++;
        size++;
    }

    /** The next task, of the lane whose turn it is. It is the caller's to give back, by {@link #done}. */
    Optional<Task> next() {
        Iterator<Map.Entry<String, Queue>> lanes = queues.entrySet().iterator();
        while (lanes.hasNext()) {
            Map.Entry<String, Queue> lane = lanes.next();
            Queue queue = lane.getValue();
            Task task = take(queue);
            if (task != null) {
                queue.size--;
                size--;
                lanes.remove();
                queues.put(lane.getKey(), queue);
                return Optional.of(task);
            }
        }
        return Optional.empty();
    }

    /** The task that is next, which stays where it is. */
    Optional<Task> peek() {
        for (Queue queue : queues.values()) {
            Line line = queue.ready.peek();
            Task task = !queue.tasks.isEmpty() || line == null ? queue.tasks.peek() : line.tasks.peek();
            if (task != null) {
                return Optional.of(task);
            }
        }
        return Optional.empty();
    }

    private static Task take(Queue queue) {
        Task task = queue.tasks.poll();
        if (task != null) {
            return task;
        }
        Line line = queue.ready.poll();
        if (line == null) {
            return null;
        }
        line.busy = true;
        return line.tasks.poll();
    }

    /** The task was taken out and has not been tried: it stands first again. */
    void back(Task task) {
        Queue queue = queue(task.lane());
        if (task.line() == null) {
            queue.tasks.addFirst(task);
        } else {
            Line line = queue.line(task.line());
            line.busy = false;
            line.tasks.addFirst(task);
            queue.ready.addFirst(line);
        }
        queue.size++;
        size++;
    }

    /**
     * The task is settled, or back in the table; its line goes on.
     *
     * @return whether its line is at its end here, and has more in the table
     */
    boolean done(Task task) {
        budget.give(task.bytes());
        if (task.line() == null) {
            return false;
        }
        Queue queue = queue(task.lane());
        Line line = queue.line(task.line());
        line.busy = false;
        if (!line.tasks.isEmpty()) {
            queue.ready.add(line);
            return false;
        }
        queue.forgetIfIdle(task.line());
        return queue.table.has(task.line());
    }

    /** A task is about to go back to the table: takes out what stands behind it, which must follow. */
    List<Task> stall(Task task) {
        if (task.line() == null) {
            return List.of();
        }
        Queue queue = queue(task.lane());
        Line line = queue.line(task.line());
        line.stalled = line.reserved > 0;
        List<Task> behind = new ArrayList<>(line.tasks);
        line.tasks.clear();
        queue.size -= behind.size();
        size -= behind.size();
        queue.table.leaves(task.line());
        behind.forEach(one -> {
            queue.table.leaves(one.line());
            budget.give(one.bytes());
        });
        return behind;
    }

    /** Takes out all that waits, of lanes other than these; it goes back to the table. */
    List<Task> removeAllBut(Collection<String> lanes) {
        List<Task> removed = new ArrayList<>();
        queues.forEach((lane, queue) -> {
            if (!lanes.contains(lane)) {
                removed.addAll(empty(queue));
            }
        });
        removed.stream()
                .filter(task -> task.line() != null)
                .forEach(task -> queue(task.lane()).table.leaves(task.line()));
        return removed;
    }

    /** Takes out all that waits. */
    List<Task> abandon() {
        doubtAll();
        return removeAllBut(List.of());
    }

    private List<Task> empty(Queue queue) {
        List<Task> removed = new ArrayList<>(queue.tasks);
        queue.tasks.clear();
        for (Line line : queue.lines.values()) {
            removed.addAll(line.tasks);
            line.tasks.clear();
            line.stalled = line.reserved > 0;
        }
        queue.ready.clear();
        queue.lines.values().removeIf(Line::isIdle);
        size -= queue.size;
        queue.size = 0;
        removed.forEach(task -> budget.give(task.bytes()));
        return removed;
    }

    void doubtAll() {
        queues.values().forEach(queue -> queue.table.doubtAll());
    }
}
