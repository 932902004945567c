package org.holtra.service.intake;

import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.holtra.core.reading.Opened;
import org.holtra.service.cluster.Node;
import org.holtra.service.history.Records;
import org.holtra.service.journal.entry.StoredMessage;
import org.springframework.stereotype.Component;

/**
 * Whose messages wait to be read, since their codec could not be run when they came. As long as one of a device waits, those
 * that come after it wait too: a device's messages are read in the order they came.
 */
@Component
class Deferrals {

    /** So many devices are known to wait on other nodes; of more, some messages may be read before earlier ones. */
    private static final int MOST = 100_000;

    /** What waits of a device, as this node took it. */
    private static final class Waiting {
        /** On their way into the journal. */
        private int underWay;

        private int kept;
    }

    private final Records records;
    private final Node node;
    private final Map<String, Waiting> mine = new ConcurrentHashMap<>();
    private volatile Set<String> others = Set.of();

    Deferrals(Records records, Node node) {
        this.records = records;
        this.node = node;
    }

    /** What is read in order; an inlet's, where a message is of no device. */
    static String keyOf(Opened opened) {
        String device = opened.origin().device();
        return device == null ? ofInlet(opened.inlet().name()) : device;
    }

    static String keyOf(StoredMessage message) {
        return message.device() == null ? ofInlet(message.arrival().inlet()) : message.device();
    }

    private static String ofInlet(String inlet) {
        return "inlet " + inlet;
    }

    /** What waits since before this process began. */
    void load() {
        records.deferred(MOST).forEach(key -> mine.computeIfAbsent(key, unknown -> new Waiting()).kept++);
    }

    /** What other nodes took and could not read yet. Called every so often. */
    void hearOfOthers() {
        others = node.hasCompany() ? new HashSet<>(records.deferred(MOST)) : Set.of();
    }

    boolean isEmpty() {
        return mine.isEmpty() && others.isEmpty();
    }

    /** Whether a message must wait behind another; it is on its way into the journal then. */
    boolean joins(String key) {
        if (isEmpty()) {
            return false;
        }
        Waiting joined = mine.computeIfPresent(key, (k, waiting) -> {
            waiting.underWay++;
            return waiting;
        });
        if (joined == null && others.contains(key)) {
            begins(key);
            return true;
        }
        return joined != null;
    }

    /** A message cannot be read, and is on its way into the journal. */
    void begins(String key) {
        mine.compute(key, (k, before) -> {
            Waiting waiting = before == null ? new Waiting() : before;
            waiting.underWay++;
            return waiting;
        });
    }

    /** It is there, or will never be. */
    void arrived(String key, boolean kept) {
        mine.computeIfPresent(key, (k, waiting) -> {
            waiting.underWay--;
            waiting.kept += kept ? 1 : 0;
            return left(waiting);
        });
    }

    /** How many this node took and has in the journal, by key. */
    Map<String, Integer> kept() {
        Map<String, Integer> kept = new HashMap<>();
        mine.forEach((key, waiting) -> {
            if (waiting.kept > 0) {
                kept.put(key, waiting.kept);
            }
        });
        return kept;
    }

    /** So many wait no longer. */
    void read(String key, int count) {
        mine.computeIfPresent(key, (k, waiting) -> {
            waiting.kept = Math.max(0, waiting.kept - count);
            return left(waiting);
        });
    }

    private static Waiting left(Waiting waiting) {
        return waiting.underWay <= 0 && waiting.kept == 0 ? null : waiting;
    }
}
