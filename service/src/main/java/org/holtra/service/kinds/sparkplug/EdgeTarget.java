package org.holtra.service.kinds.sparkplug;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.holtra.core.setup.Outlet;
import org.holtra.core.text.DurationText;

/**
 * As which edge node an outlet publishes.
 *
 * @param host the host application that it waits for; null for none
 * @param qos of data; the standard has 0, which no broker acknowledges
 * @param whole names of metrics that are whole numbers
 */
record EdgeTarget(String group, String node, String host, int qos, Set<String> whole, Duration timeout) {

    private static final Duration USUAL_TIMEOUT = Duration.ofSeconds(10);
    private static final String USUAL_NODE = "holtra-{node}";

    /** @param ownName of this node of Holtra: two of them are two edge nodes */
    static EdgeTarget of(Outlet outlet, String ownName) {
        Map<String, Object> to = outlet.to();
        String node = to.get("node") instanceof String said ? said : USUAL_NODE;
        return new EdgeTarget(
                (String) to.get("group"),
                node.replace("{node}", level(ownName)),
                (String) to.get("host"),
                to.get("qos") instanceof Number number ? number.intValue() : 0,
                to.get("wholeNumbers") instanceof List<?> names
                        ? names.stream().map(String::valueOf).collect(Collectors.toSet())
                        : Set.of(),
                to.get("timeout") instanceof String text ? DurationText.parse(text) : USUAL_TIMEOUT);
    }

    /** A name stays inside its level of a topic. */
    static String level(String name) {
        return name.replaceAll("[/+#\\p{Cntrl}]", "_");
    }
}
