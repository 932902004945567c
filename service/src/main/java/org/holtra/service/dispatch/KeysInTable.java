package org.holtra.service.dispatch;

import java.util.HashMap;
import java.util.Map;
import java.util.Set;

/**
 * Which order keys of a lane have something in the table that is in nobody's hands. What comes under such a key must go by the
 * table too, or it would overtake. It errs on one side only: a key that is not named here has nothing there. Not safe for
 * use by several threads; its runner guards it.
 *
 * <p>A look at the table sees what was committed before it began. So a key is struck off only if nothing was on its way
 * to the table then, which the count of looks tells.
 */
final class KeysInTable {

    /** If there are more, all keys count as being in the table until a pass through it finds fewer. */
    static final int BOUND = 10_000;

    private static final class Mark {
        private int onTheWay;
        private long arrived;

        private boolean settledBefore(long look) {
            return onTheWay == 0 && arrived < look;
        }
    }

    private final Map<String, Mark> marks = new HashMap<>();
    private boolean all = true;
    private long doubted;
    private long looks;

    boolean has(String key) {
        return all || marks.containsKey(key);
    }

    /** Something under this key is about to be written to the table, or given back to it. */
    void leaves(String key) {
        marks.computeIfAbsent(key, name -> new Mark()).onTheWay++;
    }

    /** It was, or it came to nothing. */
    void arrived(String key) {
        Mark mark = marks.computeIfAbsent(key, name -> new Mark());
        mark.onTheWay = Math.max(0, mark.onTheWay - 1);
        mark.arrived = looks;
        if (marks.size() > BOUND) {
            all = true;
        }
    }

    /** Nobody knows any more what is there. */
    void doubtAll() {
        all = true;
        doubted = looks;
    }

    /** A look at the table begins; the number names it. */
    long look() {
        return ++looks;
    }

    /** The look found that all there was under these keys has been taken. */
    void taken(Set<String> keys, long look) {
        for (String key : keys) {
            Mark mark = marks.get(key);
            if (mark != null && mark.settledBefore(look)) {
                marks.remove(key);
            }
        }
    }

    /**
     * A pass through all keys has ended.
     *
     * @param left the keys of which something stayed
     * @param first the pass's first look
     */
    void passed(Set<String> left, long first) {
        if (left.size() > BOUND) {
            all = true;
            return;
        }
        marks.entrySet()
                .removeIf(
                        mark -> !left.contains(mark.getKey()) && mark.getValue().settledBefore(first));
        left.forEach(key -> marks.computeIfAbsent(key, name -> new Mark()));
        all = all && doubted >= first;
    }
}
