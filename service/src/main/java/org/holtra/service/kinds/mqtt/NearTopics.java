package org.holtra.service.kinds.mqtt;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import org.holtra.core.text.Nearest;
import org.holtra.service.brokers.TopicPattern;

/**
 * Topics that are written almost as a filter wants them: with a level misspelt, missing or added. The distance is the least cost
 * of turning one list of levels into the other, where a level that is written otherwise costs the share of its letters
 * that differ.
 */
final class NearTopics {

    /** Beyond this, a topic is another one and not a misspelt one. */
    private static final double FARTHEST = 0.75;

    private static final double OTHER_CASE = 0.1;

    /** Of a level that is missing, or one too many. */
    private static final double MISSING = 0.7;

    /** With a greater share of its letters different, a level is another one. */
    private static final double MOST_DIFFERENT = 0.5;

    private static final double ANOTHER = 1;

    private record Near(String topic, double distance) {}

    private NearTopics() {}

    /** The nearest of the topics that no pattern takes, the nearest first, up to so many. */
    static List<String> of(List<TopicPattern> patterns, List<String> topics, int most) {
        List<Near> near = new ArrayList<>();
        for (String topic : topics) {
            double distance = patterns.stream()
                    .mapToDouble(pattern -> distance(pattern.filter().split("/", -1), topic.split("/", -1)))
                    .min()
                    .orElse(FARTHEST + 1);
            if (distance > 0 && distance <= FARTHEST) {
                near.add(new Near(topic, distance));
            }
        }
        return near.stream()
                .sorted(Comparator.comparingDouble(Near::distance).thenComparing(Near::topic))
                .limit(most)
                .map(Near::topic)
                .toList();
    }

    private static double distance(String[] filter, String[] topic) {
        int rows = filter.length > 0 && filter[filter.length - 1].equals("#") ? filter.length - 1 : filter.length;
        boolean open = rows < filter.length;
        double[][] costs = new double[rows + 1][topic.length + 1];
        for (int i = 0; i <= rows; i++) {
            for (int j = 0; j <= topic.length; j++) {
                if (i == 0 || j == 0) {
                    costs[i][j] = (i + j) * MISSING;
                } else {
                    costs[i][j] = Math.min(
                            costs[i - 1][j - 1] + level(filter[i - 1], topic[j - 1]),
                            MISSING + Math.min(costs[i - 1][j], costs[i][j - 1]));
                }
            }
        }
        double best = costs[rows][topic.length];
        // What is below the last level of an open filter costs nothing.
        for (int j = 1; open && j <= topic.length; j++) {
            best = Math.min(best, costs[rows][j]);
        }
        return best;
    }

    private static double level(String wanted, String there) {
        if (wanted.equals("+") || wanted.equals(there)) {
            return 0;
        }
        String one = wanted.toLowerCase(Locale.ROOT);
        String other = there.toLowerCase(Locale.ROOT);
        double share = (double) Nearest.distance(one, other) / Math.max(1, Math.max(one.length(), other.length()));
        return one.equals(other) ? OTHER_CASE : share > MOST_DIFFERENT ? ANOTHER : share;
    }
}
