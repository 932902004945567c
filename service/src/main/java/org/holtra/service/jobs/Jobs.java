package org.holtra.service.jobs;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.locks.LockSupport;
import java.util.stream.Collectors;
import org.holtra.service.cluster.Node;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.journal.DeadLetters;
import org.holtra.service.journal.JournalUnavailable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;
import org.springframework.transaction.support.TransactionSynchronization;
import org.springframework.transaction.support.TransactionSynchronizationManager;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.json.JsonMapper;

/**
 * Does what people want done to many things at once: step by step in the background, each step once. What a process that
 * ended left undone, it or another node takes up.
 */
@Component
public class Jobs implements AutoCloseable {

    private static final long LOOK_AGAIN_NANOS = 10_000_000;
    private static final Duration PAUSE_WHILE_AWAY = Duration.ofSeconds(1);
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Logger log = LoggerFactory.getLogger(Jobs.class);

    private final JobMapper mapper;
    private final Map<String, Work> works;
    private final Means means;
    private final ExecutorService threads = Executors.newVirtualThreadPerTaskExecutor();
    private volatile boolean closing;

    /** What jobs are done with. */
    @Component
    record Means(
            TransactionTemplate transaction, Node node, Dispatcher dispatcher, DeadLetters dead, InstantSource clock) {}

    Jobs(JobMapper mapper, Collection<Work> works, Means means) {
        this.mapper = mapper;
        this.works = works.stream().collect(Collectors.toMap(Work::what, work -> work));
        this.means = means;
    }

    /**
     * Begins one; within a transaction, once that is committed.
     *
     * @param expected how many things it will be done to; null if that is not known
     * @param undoUntil until when it can be taken back; null if it cannot
     */
    public Job begin(String what, Object terms, String by, Long expected, Instant undoUntil) {
        UUID id = UUID.randomUUID();
        mapper.begin(
                id,
                what,
                JSON.writeValueAsString(terms),
                by,
                means.clock.instant(),
                expected,
                means.node.id(),
                undoUntil);
        onceCommitted(() -> threads.execute(() -> run(id)));
        return mapper.find(id).orElseThrow();
    }

    private static void onceCommitted(Runnable work) {
        if (!TransactionSynchronizationManager.isSynchronizationActive()) {
            work.run();
            return;
        }
        TransactionSynchronizationManager.registerSynchronization(new TransactionSynchronization() {
            @Override
            public void afterCommit() {
                work.run();
            }
        });
    }

    public Optional<Job> find(UUID id) {
        return mapper.find(id);
    }

    /** As it stands once it has ended, or once one's patience has. */
    public Job await(UUID id, Duration patience) {
        Instant until = means.clock.instant().plus(patience);
        Job now = mapper.find(id).orElseThrow();
        while (now.state().equals(Job.RUNNING) && means.clock.instant().isBefore(until)) {
            LockSupport.parkNanos(LOOK_AGAIN_NANOS);
            now = mapper.find(id).orElseThrow();
        }
        return now;
    }

    /** The newest first; those that began before the given one, if there is one. */
    public List<Job> list(Instant before, UUID id, int limit) {
        return mapper.list(before, id, limit);
    }

    /** Stops one; what is done stays done. False if it does not run. */
    public boolean cancel(UUID id, String by) {
        return mapper.end(id, Job.CANCELLED, means.clock.instant(), "cancelled by " + by) > 0;
    }

    /** Takes back what was dropped; says how many. */
    public int undo(UUID id, String by) {
        cancel(id, by);
        int count = means.dead.undrop(id);
        mapper.undone(id, means.clock.instant(), count + " taken back by " + by);
        return count;
    }

    /** Takes up what a node that is gone left undone. */
    public void takeUp() {
        mapper.adopt(means.node.id()).forEach(id -> threads.execute(() -> run(id)));
    }

    private void run(UUID id) {
        try {
            while (!closing) {
                Optional<Work.Step> step = stepWhenPossible(id);
                if (step.isEmpty()) {
                    return;
                }
                step.get().outlets().stream().distinct().forEach(means.dispatcher::wake);
                Thread.sleep(step.get().pause());
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } catch (RuntimeException e) {
            if (closing) {
                // The step was undone with its transaction; whoever takes the job up does it.
                log.info("Job {} stops with this process: {}", id, e.getMessage());
                return;
            }
            log.error("Job {} ended early", id, e);
            fail(id, e);
        }
    }

    /** The next step, once the database is there to do it in; empty if there is nothing more to do. */
    private Optional<Work.Step> stepWhenPossible(UUID id) throws InterruptedException {
        while (true) {
            try {
                return Optional.ofNullable(means.transaction.execute(status -> step(id)));
            } catch (DataAccessException | TransactionException e) {
                if (closing || !JournalUnavailable.mayPass(e)) {
                    throw e;
                }
                log.info("Job {} waits for the database: {}", id, e.getMessage());
                Thread.sleep(PAUSE_WHILE_AWAY);
            }
        }
    }

    private void fail(UUID id, RuntimeException e) {
        try {
            mapper.end(id, Job.FAILED, means.clock.instant(), e.getMessage());
        } catch (RuntimeException again) {
            // The database is away: it is taken up again at the next start.
            log.warn("Job {} could not be ended: {}", id, again.getMessage());
        }
    }

    /** Null if there is nothing more to do. */
    private Work.Step step(UUID id) {
        Job job = mapper.lock(id, means.node.id()).orElse(null);
        if (job == null) {
            return null;
        }
        Work.Step step = works.get(job.what()).step(job);
        mapper.advance(id, step.done(), step.reached(), step.note());
        if (step.reached() == null) {
            mapper.end(id, Job.DONE, means.clock.instant(), step.note());
        }
        return step;
    }

    @Override
    public void close() {
        closing = true;
        threads.shutdownNow();
    }
}
