package org.holtra.service.kinds.sparkplug;

import java.util.List;
import java.util.function.Predicate;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.holtra.core.reading.sparkplug.Metric;
import org.holtra.core.reading.sparkplug.Payload;

/**
 * Which metrics are taken.
 *
 * @param names a pattern of the names; null for all but those of the protocol's own
 */
record MetricChoice(Pattern names, boolean takesTransient) implements Predicate<Metric> {

    private static final String CONTROL = "Node Control/";

    /** @param wanted names with * for any characters; empty for all */
    static MetricChoice of(List<String> wanted, boolean takesTransient) {
        if (wanted.isEmpty()) {
            return new MetricChoice(null, takesTransient);
        }
        String any = wanted.stream()
                .map(name -> Pattern.quote(name).replace("*", "\\E.*\\Q"))
                .collect(Collectors.joining("|"));
        return new MetricChoice(Pattern.compile(any, Pattern.DOTALL), takesTransient);
    }

    @Override
    public boolean test(Metric metric) {
        if (metric.transientValue() && !takesTransient) {
            return false;
        }
        return names == null
                ? !metric.name().equals(Payload.BIRTH_DEATH_SEQUENCE)
                        && !metric.name().startsWith(CONTROL)
                : names.matcher(metric.name()).matches();
    }
}
