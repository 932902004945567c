package org.holtra.standins.historian;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;

/** What the historian keeps: samples by series, and the lines of its reporting service. */
public final class Historian {

    /** @param at milliseconds since 1970 */
    public record Sample(String series, long at, double value) {}

    /** A series' newest sample, and how many it has. */
    public record Series(Sample last, long count) {}

    private static final int LINES_SHOWN = 200;

    private final Map<String, Series> series = new TreeMap<>();
    private final Deque<String> lines = new ArrayDeque<>();
    private final Set<String> keys = new HashSet<>();

    /** False if a write of this key was taken before, and nothing is kept. */
    public synchronized boolean fresh(String key) {
        return keys.add(key);
    }

    public synchronized void write(List<Sample> samples) {
        for (Sample sample : samples) {
            Series before = series.get(sample.series());
            boolean newer = before == null || sample.at() >= before.last().at();
            series.put(
                    sample.series(),
                    new Series(newer ? sample : before.last(), before == null ? 1 : before.count() + 1));
        }
    }

    public synchronized void line(String line) {
        lines.addFirst(line);
        if (lines.size() > LINES_SHOWN) {
            lines.removeLast();
        }
    }

    public synchronized Map<String, Series> series() {
        return new TreeMap<>(series);
    }

    /** The newest first. */
    public synchronized List<String> lines() {
        return List.copyOf(lines);
    }
}
