package org.holtra.service.brokers;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Pattern;

/**
 * A topic filter (MQTT 5.0, section 4.7) whose levels may have names: {@code site/{station}/+} is the filter {@code site/+/+},
 * and gives the second level of a topic as {@code station}.
 */
public record TopicPattern(String written, String filter, List<String> levels) {

    private static final Pattern NAME = Pattern.compile("\\{[A-Za-z][A-Za-z0-9_]*\\}");
    private static final int LONGEST = 65_535;

    /** @throws IllegalArgumentException if it is no topic filter, with a sentence for people */
    public static TopicPattern of(String written) {
        if (written.isEmpty() || written.length() > LONGEST || written.indexOf('\0') >= 0) {
            throw new IllegalArgumentException("a topic filter has 1 to 65,535 characters, none of them NUL");
        }
        if (written.startsWith("$share/")) {
            throw new IllegalArgumentException("`" + written
                    + "` says by itself that it is shared; leave that part out, and name the group as `share`");
        }
        String[] levels = written.split("/", -1);
        List<String> filter = new ArrayList<>();
        for (int i = 0; i < levels.length; i++) {
            filter.add(level(levels[i], i == levels.length - 1, written));
        }
        return new TopicPattern(written, String.join("/", filter), List.of(levels));
    }

    private static String level(String level, boolean last, String written) {
        if (NAME.matcher(level).matches()) {
            return "+";
        }
        if (level.indexOf('{') >= 0 || level.indexOf('}') >= 0) {
            throw new IllegalArgumentException("`" + level + "` in `" + written
                    + "` is no level: a name in braces stands for a whole level, and has letters, digits and _ only");
        }
        if (level.equals("#") && !last) {
            throw new IllegalArgumentException(
                    "# in `" + written + "` stands for all levels below, and can only be the last");
        }
        if (level.length() > 1 && (level.indexOf('+') >= 0 || level.indexOf('#') >= 0)) {
            throw new IllegalArgumentException(
                    "`" + level + "` in `" + written + "`: + and # stand for whole levels, not for parts of one");
        }
        return level;
    }

    /** The levels of a topic that have names, by these; empty if the topic does not match. */
    public Optional<Map<String, Object>> names(String topic) {
        if (topic.startsWith("$") && !levels.getFirst().startsWith("$")) {
            return Optional.empty(); // section 4.7.2: wildcards do not match the broker's own topics
        }
        String[] its = topic.split("/", -1);
        Map<String, Object> names = new LinkedHashMap<>();
        for (int i = 0; i < levels.size(); i++) {
            String level = levels.get(i);
            if (level.equals("#")) {
                return Optional.of(names);
            }
            if (i >= its.length) {
                return Optional.empty();
            }
            if (level.startsWith("{")) {
                names.put(level.substring(1, level.length() - 1), its[i]);
            } else if (!level.equals("+") && !level.equals(its[i])) {
                return Optional.empty();
            }
        }
        // # matches its parent level too: section 4.7.1.2
        boolean parent = its.length == levels.size();
        return parent ? Optional.of(names) : Optional.empty();
    }
}
