package org.holtra.service.incidents;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Stream;

/**
 * What is in an incident's span, or what was done about it.
 *
 * @param messages how many there are
 * @param delivered how many deliveries arrived
 * @param waiting how many are on their way
 * @param unread how many messages could not be read, and
 * @param readable how many of them can be now
 * @param dead how many deliveries are given up, by cause
 * @param unrouted how many messages no lane took that one would take now, by lane
 * @param revisions how many deliveries arrived, by the revision of the setup that made their content; or, of what was
 *     done, how many were corrected
 * @param overtaken how many of those that would go now come behind later ones of their device on lanes that keep order
 * @param examples a few messages of each type, by {@code unread}, {@code dead}, {@code unrouted}
 * @param missing where devices' own numbers jump
 */
public record Findings(
        long messages,
        long delivered,
        long waiting,
        long unread,
        long readable,
        Map<String, Long> dead,
        Map<String, Long> unrouted,
        Map<Integer, Long> revisions,
        long overtaken,
        Map<String, List<String>> examples,
        List<Missing> missing) {

    /**
     * Numbers that never came.
     *
     * @param first and {@code last} of them
     * @param at when the message after them came, and
     * @param message its id
     * @param late how many between came later than that
     */
    public record Missing(String device, String inlet, long first, long last, Instant at, String message, long late) {

        /** How many never came. */
        public long count() {
            return last - first + 1 - late;
        }
    }

    static final int EXAMPLES = 5;

    static final Findings NONE = new Findings(0, 0, 0, 0, 0, Map.of(), Map.of(), Map.of(), 0, Map.of(), List.of());

    static Findings missing(List<Missing> missing) {
        return new Findings(0, 0, 0, 0, 0, Map.of(), Map.of(), Map.of(), 0, Map.of(), missing);
    }

    Findings plus(Findings more) {
        return new Findings(
                messages + more.messages,
                delivered + more.delivered,
                waiting + more.waiting,
                unread + more.unread,
                readable + more.readable,
                sum(dead, more.dead),
                sum(unrouted, more.unrouted),
                sum(revisions, more.revisions),
                overtaken + more.overtaken,
                some(examples, more.examples),
                more.missing.isEmpty() ? missing : more.missing);
    }

    private static <K> Map<K, Long> sum(Map<K, Long> one, Map<K, Long> other) {
        Map<K, Long> sum = new TreeMap<>(one);
        other.forEach((key, count) -> sum.merge(key, count, Long::sum));
        return sum;
    }

    private static Map<String, List<String>> some(Map<String, List<String>> one, Map<String, List<String>> other) {
        Map<String, List<String>> some = new TreeMap<>(one);
        other.forEach((what, ids) -> some.merge(
                what,
                ids,
                (a, b) -> Stream.concat(a.stream(), b.stream()).limit(EXAMPLES).toList()));
        return some;
    }

    public static long total(Map<?, Long> counts) {
        return counts.values().stream().mapToLong(Long::longValue).sum();
    }
}
