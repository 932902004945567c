package org.holtra.service.cluster;

import java.time.Duration;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import java.util.function.LongSupplier;
import org.holtra.service.database.Urgent;
import org.holtra.service.settings.HoltraSettings;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * This process as the database knows it. What it owns of the hot table is its own while its lease lasts; whoever finds
 * the lease run out removes the node and sets free what it owned, in one transaction. So a node that is still there has
 * lost nothing, however late it renews; and one that was removed comes back under a new id.
 */
@Component
public class Node {

    /** How long a node that died keeps its deliveries. */
    static final Duration LEASE = Duration.ofSeconds(6);

    /** A node sends nothing in the last stretch of its lease: an attempt must not begin as another node takes it over. */
    private static final Duration MARGIN = Duration.ofSeconds(1);

    /**
     * What a node that was given up wrote under its old id afterwards, when a database that was away came back, is looked
     * for so often, and for so long.
     */
    private static final Duration LOOK_FOR_ORPHANS = Duration.ofSeconds(10);

    private static final Duration AFTER_A_LOSS = Duration.ofMinutes(1);

    /** Otherwise it is looked for so often: it goes through all that is owed. */
    private static final Duration LOOK_IN_PEACE = Duration.ofMinutes(10);

    private static final Logger log = LoggerFactory.getLogger(Node.class);

    /**
     * What a renewal found.
     *
     * @param freed outlets for which something was taken from nodes that are gone
     * @param lost whether this node itself had been given up; what it owned is others'
     * @param joins how many nodes have ever joined, left or been given up
     */
    public record News(Set<String> freed, boolean lost, long joins) {}

    /**
     * As what a node decides what it means to own.
     *
     * @param joins how many nodes had joined, left or been given up, as far as it had acted on that
     */
    public record Standing(UUID id, long joins) {}

    private final NodeMapper mapper;
    private final WorkOfNodes work;
    private final TransactionTemplate transaction;
    private final SharedClock clock;
    private final String name;
    private final LongSupplier nanos = System::nanoTime;
    private volatile UUID id = UUID.randomUUID();
    private volatile long joins;
    private volatile int others;
    private volatile long renewed;
    /** Told of once, until it is renewed again. */
    private boolean unrenewed;

    private long loss;
    private long lookedForOrphans;

    Node(
            NodeMapper mapper,
            WorkOfNodes work,
            TransactionTemplate transaction,
            SharedClock clock,
            HoltraSettings settings) {
        this.mapper = mapper;
        this.work = work;
        this.transaction = transaction;
        this.clock = clock;
        this.name = settings.node();
        this.loss = nanos.getAsLong() - AFTER_A_LOSS.toNanos();
    }

    public UUID id() {
        return id;
    }

    /** What people call it. */
    public String name() {
        return name;
    }

    /** Read in this order: whoever knows of the latest join knows under which id this node came by it. */
    public Standing standing() {
        long seen = joins;
        return new Standing(id, seen);
    }

    /** How many nodes had ever joined, left or been given up when this one last acted on that. */
    public long joins() {
        return joins;
    }

    /** Whether there is another, or one that nobody has given up yet. */
    public boolean hasCompany() {
        return others > 0;
    }

    /**
     * Whether what this node owns is its own still: nobody gives it up before this turns false. Told by the steady clock,
     * which runs on while the process is stopped.
     */
    public boolean holdsLease() {
        return nanos.getAsLong() - renewed < LEASE.minus(MARGIN).toNanos();
    }

    /** Whether what was taken under this id is this node's own still. */
    public boolean holds(UUID owner) {
        return id.equals(owner) && holdsLease();
    }

    public void join() {
        joins = Urgent.call(this::enter);
        Urgent.call(this::freeOrphans);
    }

    private long enter() {
        UUID fresh = UUID.randomUUID();
        long joined = mapper.countChange();
        long asked = nanos.getAsLong();
        mapper.add(fresh, name, seconds());
        id = fresh;
        look(asked);
        return joined;
    }

    private NodeMapper.Renewed look(long asked) {
        NodeMapper.Renewed found = mapper.renew(id, seconds());
        if (found != null) {
            clock.set(found.now(), asked, nanos.getAsLong());
            others = found.others();
            renewed = asked;
        }
        return found;
    }

    private static double seconds() {
        return LEASE.toMillis() / 1e3;
    }

    /** Renews the lease and sets free what dead nodes owned. */
    public News renew() {
        return Urgent.call(this::renewed);
    }

    private News renewed() {
        try {
            NodeMapper.Renewed found = look(nanos.getAsLong());
            long seen = found == null ? enter() : found.joins();
            unrenewed = false;
            if (found == null) {
                loss = nanos.getAsLong();
                log.warn("This node was given up while it was away; it comes back under a new id");
            }
            Set<String> freed = new HashSet<>(transaction.execute(status -> takeOver()));
            if (mayBeOrphans()) {
                freed.addAll(freeOrphans());
            }
            return new News(freed, found == null, seen);
        } catch (DataAccessException | TransactionException e) {
            if (!unrenewed) {
                unrenewed = true;
                log.warn(
                        "The lease of this node could not be renewed: {}",
                        e.getMostSpecificCause().getMessage());
            }
            return new News(Set.of(), false, joins);
        }
    }

    /** What these joins mean for order has been acted on. */
    public void saw(long joined) {
        joins = joined;
    }

    /** A node that is at work, or was until its lease ran out a moment ago. */
    public record Present(UUID id, String name, Instant started, Instant leaseUntil) {}

    /** All that are there, the longest first. */
    public List<Present> all() {
        return mapper.all();
    }

    private List<String> takeOver() {
        List<UUID> dead = mapper.removeExpired(id);
        if (dead.isEmpty()) {
            return List.of();
        }
        // Before it can be seen that this node may be alone now: it does not know yet what they left under order keys.
        mapper.countChange();
        loss = nanos.getAsLong();
        log.warn(
                "Took over from {} that gave no sign for {} s",
                dead.size() == 1 ? "a node" : dead.size() + " nodes",
                LEASE.toSeconds());
        return work.free(dead);
    }

    private boolean mayBeOrphans() {
        long now = nanos.getAsLong();
        Duration pause = now - loss < AFTER_A_LOSS.toNanos() ? LOOK_FOR_ORPHANS : LOOK_IN_PEACE;
        return now - lookedForOrphans >= pause.toNanos();
    }

    private List<String> freeOrphans() {
        lookedForOrphans = nanos.getAsLong();
        List<String> outlets = work.freeOrphans();
        if (!outlets.isEmpty()) {
            log.info("Deliveries to {} that belonged to nodes that are gone wait again", String.join(", ", outlets));
        }
        return outlets;
    }

    /** Sets free what this process still owns, so that another need not wait for the lease to run out. */
    public void leave() {
        try {
            transaction.executeWithoutResult(status -> {
                mapper.countChange();
                mapper.remove(id);
                work.free(List.of(id));
            });
        } catch (DataAccessException | TransactionException e) {
            log.warn(
                    "This node could not say goodbye; its deliveries are taken over when its lease runs out: {}",
                    e.getMostSpecificCause().getMessage());
        }
    }
}
