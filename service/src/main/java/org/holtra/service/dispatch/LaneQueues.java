package org.holtra.service.dispatch;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Deque;
import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * What waits in memory for one outlet: a bounded queue a lane, served in turn, so that a busy lane does not keep a quiet
 * one waiting. Not safe for use by several threads; its runner guards it.
 */
final class LaneQueues {

    /** What one lane may have in memory, reserved places included. */
    static final int BOUND = 2_000;

    private static final class Queue {
        private final Deque<Job> jobs = new ArrayDeque<>();
        private int reserved;

        private int room() {
            return BOUND - jobs.size() - reserved;
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

    /** Keeps a place for a job that is about to be committed; false if there is none. */
    boolean reserve(String lane, long bytes) {
        Queue queue = queues.computeIfAbsent(lane, name -> new Queue());
        if (queue.room() <= 0 || !budget.take(bytes)) {
            return false;
        }
        queue.reserved++;
        return true;
    }

    void unreserve(String lane, long bytes) {
        Queue queue = queues.get(lane);
        if (queue != null && queue.reserved > 0) {
            queue.reserved--;
            budget.give(bytes);
        }
    }

    /** Fills a reserved place. */
    void fill(Job job) {
        Queue queue = queues.computeIfAbsent(job.delivery().owed().lane(), name -> new Queue());
        if (queue.reserved > 0) {
            queue.reserved--;
        }
        queue.jobs.add(job);
        size++;
    }

    /** The next job, of the lane whose turn it is. The job's memory is the caller's to give back, by {@link #done}. */
    Optional<Job> next() {
        Iterator<Map.Entry<String, Queue>> lanes = queues.entrySet().iterator();
        while (lanes.hasNext()) {
            Map.Entry<String, Queue> lane = lanes.next();
            Queue queue = lane.getValue();
            Job job = queue.jobs.poll();
            if (job != null) {
                size--;
                lanes.remove();
                queues.put(lane.getKey(), queue);
                return Optional.of(job);
            }
        }
        return Optional.empty();
    }

    void done(Job job) {
        budget.give(job.bytes());
    }

    /** Takes out all that waits, of lanes other than these. */
    List<Job> removeAllBut(Collection<String> lanes) {
        List<Job> removed = new ArrayList<>();
        queues.forEach((lane, queue) -> {
            if (!lanes.contains(lane)) {
                removed.addAll(queue.jobs);
                size -= queue.jobs.size();
                queue.jobs.clear();
            }
        });
        removed.forEach(this::done);
        return removed;
    }
}
