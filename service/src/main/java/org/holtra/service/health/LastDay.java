package org.holtra.service.health;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.holtra.service.balance.Counts;
import org.holtra.service.balance.Tally;
import org.holtra.service.balance.TallyRow;
import org.springframework.stereotype.Component;

/**
 * In which minutes of the last day each inlet was heard, and how many deliveries of each lane died in the last hour. Read as
 * a whole once, and then only what is new.
 */
@Component
class LastDay {

    private static final int MINUTES = 24 * 60;
    private static final Duration DAY = Duration.ofMinutes(MINUTES);
    private static final Duration HOUR = Duration.ofHours(1);
    /** Counts of a minute come in for so much longer. */
    private static final Duration AGAIN = Duration.ofMinutes(3);

    private final Counts counts;
    /** A bit for each minute of a day that goes round and round, by inlet. */
    private final Map<String, BitSet> heard = new HashMap<>();

    private final Map<String, TreeMap<Instant, Long>> dead = new HashMap<>();
    private Instant readUpTo;

    LastDay(Counts counts) {
        this.counts = counts;
    }

    synchronized void read(Instant now) {
        Instant from = readUpTo == null || readUpTo.plus(DAY).isBefore(now) ? now.minus(DAY) : readUpTo.minus(AGAIN);
        if (readUpTo == null || readUpTo.plus(DAY).isBefore(now)) {
            heard.clear();
        } else {
            for (long minute = minute(readUpTo) + 1; minute <= minute(now); minute++) {
                int old = (int) (minute % MINUTES);
                heard.values().forEach(bits -> bits.clear(old));
            }
        }
        for (TallyRow row :
                counts.between(from, now.plus(Duration.ofMinutes(1)), Tally.What.ACKNOWLEDGED, Tally.What.DEAD)) {
            if (row.what().equals(Tally.What.DEAD.name())) {
                dead.computeIfAbsent(row.name(), lane -> new TreeMap<>()).put(row.minute(), row.count());
            } else if (minute(row.minute()) > minute(now) - MINUTES && minute(row.minute()) <= minute(now)) {
                heard.computeIfAbsent(row.name(), inlet -> new BitSet(MINUTES))
                        .set((int) (minute(row.minute()) % MINUTES));
            }
        }
        dead.values().forEach(counts -> counts.headMap(now.minus(HOUR), true).clear());
        dead.values().removeIf(Map::isEmpty);
        heard.values().removeIf(BitSet::isEmpty);
        readUpTo = now;
    }

    private static long minute(Instant at) {
        return Math.floorDiv(at.getEpochSecond(), 60);
    }

    /** The minutes in which an inlet was heard, in order. */
    synchronized List<Instant> heard(String inlet) {
        BitSet bits = heard.getOrDefault(inlet, new BitSet());
        List<Instant> minutes = new ArrayList<>();
        long last = minute(readUpTo);
        for (long minute = last - MINUTES + 1; minute <= last; minute++) {
            if (bits.get((int) (minute % MINUTES))) {
                minutes.add(Instant.ofEpochSecond(minute * 60));
            }
        }
        return minutes;
    }

    /** How many deliveries died in the last hour, by lane. */
    synchronized Map<String, Long> dead() {
        Map<String, Long> sums = new TreeMap<>();
        dead.forEach((lane, counts) -> sums.put(
                lane, counts.values().stream().mapToLong(Long::longValue).sum()));
        return sums;
    }
}
