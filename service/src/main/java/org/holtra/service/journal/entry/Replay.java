package org.holtra.service.journal.entry;

/**
 * The replay that makes a delivery.
 *
 * @param name of the replay
 * @param sameKey whether it goes under the key of the first delivery, so that a receiver that has it drops it
 */
public record Replay(String name, boolean sameKey) {

    /** Stands behind the name, in which it cannot stand. */
    private static final String SAME_KEY = "=";

    /** As the tables have it; null for null. */
    public static String written(Replay replay) {
        return replay == null ? null : replay.name + (replay.sameKey ? SAME_KEY : "");
    }

    /** From what the tables have; null for null. */
    public static Replay read(String written) {
        if (written == null) {
            return null;
        }
        boolean sameKey = written.endsWith(SAME_KEY);
        return new Replay(sameKey ? written.substring(0, written.length() - SAME_KEY.length()) : written, sameKey);
    }
}
