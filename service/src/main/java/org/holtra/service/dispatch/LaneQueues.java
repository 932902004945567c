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
 * one waiting. What has the same order key goes one after the other. Not safe for use by several threads; its runner guards it.
 */
final class LaneQueues {

    /** What one lane may have in memory, reserved room included. */
    static final int BOUND = 2_000;

    /** Deliveries of one device on a lane that keeps order. */
    private static final class KeyQueue {
        private final Deque<Task> tasks = new ArrayDeque<>();
        private int reserved;
        /** Taken out, and neither settled nor back. */
        private int underWay;
        /** The one before went back to the table; what was about to join this queue must follow it there. */
        private boolean stalled;

        private boolean isIdle() {
            return underWay == 0 && reserved == 0 && tasks.isEmpty();
        }
    }

    private static final class Queue {
        private final Deque<Task> tasks = new ArrayDeque<>();
        private final Map<String, KeyQueue> byKey = new HashMap<>();
        private final Deque<KeyQueue> ready = new ArrayDeque<>();
        private final KeysInTable table = new KeysInTable();
        private int size;
        private int reserved;

        private int room() {
            return BOUND - size - reserved;
        }

        private KeyQueue of(String name) {
            return byKey.computeIfAbsent(name, fresh -> new KeyQueue());
        }

        private void forgetIfIdle(String name) {
            KeyQueue waiting = byKey.get(name);
            if (waiting != null && waiting.reserved == 0) {
                waiting.stalled = false;
            }
            if (waiting != null && waiting.isIdle()) {
                byKey.remove(name);
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
            queue.byKey
                    .values()
                    .forEach(waiting -> waiting.tasks.forEach(
                            task -> ids.add(task.delivery().id())));
        }
        return ids;
    }

    private Queue queue(String lane) {
        return queues.computeIfAbsent(lane, name -> new Queue());
    }

    /** Of a lane's order keys, those that have something in the table. */
    KeysInTable table(String lane) {
        return queue(lane).table;
    }

    /**
     * Reserves room for a task that is about to be committed; false if there is none, or if it would overtake what its key
     * has in the table. Then {@link KeysInTable#arrived} must be told once it is committed.
     *
     * @param orderKey null if it has none
     */
    boolean reserve(String lane, String orderKey, long bytes) {
        Queue queue = queue(lane);
        boolean behind = orderKey != null && queue.table.has(orderKey);
        if (behind || queue.room() <= 0 || !budget.take(bytes)) {
            if (orderKey != null) {
                queue.table.leaves(orderKey);
            }
            return false;
        }
        queue.reserved++;
        if (orderKey != null) {
            queue.of(orderKey).reserved++;
        }
        return true;
    }

    void unreserve(String lane, String orderKey, long bytes) {
        Queue queue = queue(lane);
        if (free(queue, orderKey)) {
            budget.give(bytes);
        }
    }

    private static boolean free(Queue queue, String orderKey) {
        if (queue.reserved == 0) {
            return false;
        }
        queue.reserved--;
        if (orderKey != null) {
            KeyQueue of = queue.byKey.get(orderKey);
            if (of == null || of.reserved == 0) {
                return true;
            }
            of.reserved--;
            queue.forgetIfIdle(orderKey);
        }
        return true;
    }

    /** Takes reserved room; false if what came before it went back to the table, where it must follow. */
    boolean fill(Task task) {
        Queue queue = queue(task.lane());
        KeyQueue waiting = task.orderKey() == null ? null : queue.byKey.get(task.orderKey());
        boolean stalled = waiting != null && waiting.stalled;
        free(queue, task.orderKey());
        if (stalled) {
            queue.table.leaves(task.orderKey());
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
        if (task.orderKey() == null) {
            queue.tasks.add(task);
        } else {
            KeyQueue waiting = queue.of(task.orderKey());
            waiting.tasks.add(task);
            if (waiting.underWay == 0 && waiting.tasks.size() == 1) {
                queue.ready.add(waiting);
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
            KeyQueue waiting = queue.ready.peek();
            Task task = !queue.tasks.isEmpty() || waiting == null ? queue.tasks.peek() : waiting.tasks.peek();
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
        KeyQueue waiting = queue.ready.poll();
        if (waiting == null) {
            return null;
        }
        waiting.underWay++;
        return waiting.tasks.poll();
    }

    /**
     * The next task under the order key of one that the caller has taken out and not given back; empty if there is none. The
     * caller answers for their order.
     */
    Optional<Task> behind(Task task) {
        if (task.orderKey() == null) {
            return Optional.empty();
        }
        Queue queue = queue(task.lane());
        KeyQueue waiting = queue.of(task.orderKey());
        Task next = waiting.tasks.poll();
        if (next != null) {
            waiting.underWay++;
            queue.size--;
            size--;
        }
        return Optional.ofNullable(next);
    }

    /** The task was taken out and has not been tried: it stands first again. */
    void back(Task task) {
        Queue queue = queue(task.lane());
        if (task.orderKey() == null) {
            queue.tasks.addFirst(task);
        } else {
            KeyQueue waiting = queue.of(task.orderKey());
            waiting.underWay--;
            waiting.tasks.addFirst(task);
            if (waiting.underWay == 0) {
                queue.ready.addFirst(waiting);
            }
        }
        queue.size++;
        size++;
    }

    /**
     * The task is settled, or back in the table; its order key goes on.
     *
     * @return whether its order key is at its end here, and has more in the table
     */
    boolean done(Task task) {
        budget.give(task.bytes());
        if (task.orderKey() == null) {
            return false;
        }
        Queue queue = queue(task.lane());
        KeyQueue waiting = queue.of(task.orderKey());
        waiting.underWay--;
        if (waiting.underWay > 0) {
            return false;
        }
        if (!waiting.tasks.isEmpty()) {
            queue.ready.add(waiting);
            return false;
        }
        queue.forgetIfIdle(task.orderKey());
        return queue.table.has(task.orderKey());
    }

    /** The task was taken out and has not been tried, and is about to go back to the table. Nothing may stand behind it here. */
    void leave(Task task) {
        task.order().ifPresent(order -> table(order.lane()).leaves(order.key()));
        done(task);
    }

    /** A task is about to go back to the table: takes out what stands behind it, which must follow. */
    List<Task> stall(Task task) {
        if (task.orderKey() == null) {
            return List.of();
        }
        Queue queue = queue(task.lane());
        KeyQueue waiting = queue.of(task.orderKey());
        waiting.stalled = waiting.reserved > 0;
        List<Task> behind = new ArrayList<>(waiting.tasks);
        waiting.tasks.clear();
        queue.size -= behind.size();
        size -= behind.size();
        queue.table.leaves(task.orderKey());
        behind.forEach(one -> {
            queue.table.leaves(one.orderKey());
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
                .filter(task -> task.orderKey() != null)
                .forEach(task -> queue(task.lane()).table.leaves(task.orderKey()));
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
        for (KeyQueue waiting : queue.byKey.values()) {
            removed.addAll(waiting.tasks);
            waiting.tasks.clear();
            waiting.stalled = waiting.reserved > 0;
        }
        queue.ready.clear();
        queue.byKey.values().removeIf(KeyQueue::isIdle);
        size -= queue.size;
        queue.size = 0;
        removed.forEach(task -> budget.give(task.bytes()));
        return removed;
    }

    void doubtAll() {
        queues.values().forEach(queue -> queue.table.doubtAll());
    }
}
