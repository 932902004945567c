package org.holtra.service.database;

import java.util.function.Supplier;

/**
 * Marks work on the database that must not wait behind other work: a node's lease, and the journal's commits. It gets
 * connections from a pool of its own, with short time-outs; see {@code ops.DatabaseConfiguration}.
 */
public final class Urgent {

    private static final ThreadLocal<Boolean> MARK = ThreadLocal.withInitial(() -> false);

    private Urgent() {}

    /** Whether this thread does such work now. */
    public static boolean isMarked() {
        return MARK.get();
    }

    /** A transaction that is under way already keeps its connection. */
    public static <T> T call(Supplier<T> work) {
        boolean before = MARK.get();
        MARK.set(true);
        try {
            return work.get();
        } finally {
            MARK.set(before);
        }
    }
}
