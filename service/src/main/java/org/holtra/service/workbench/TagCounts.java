package org.holtra.service.workbench;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import java.util.UUID;
import java.util.stream.Collectors;
import org.holtra.core.picking.Points;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.dispatch.OutletKind;
import org.holtra.service.dispatch.Tag;
import org.holtra.service.history.LaneState;
import org.holtra.service.history.Records;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/**
 * What became of each value that an outlet's destination knows by a name of its own: counted over the last messages of the inlets
 * of its lanes, as today's shapes write them. Lanes that combine messages are left out: their content is not that of one.
 */
@Component
public class TagCounts {

    private static final int MOST_TAGS = 2_000;

    private final Setups setups;
    private final Sample sample;
    private final Records records;
    private final Introductions introductions;
    private final Map<String, OutletKind> kinds;

    TagCounts(Setups setups, Sample sample, Records records, Introductions introductions, List<OutletKind> kinds) {
        this.introductions = introductions;
        this.setups = setups;
        this.sample = sample;
        this.records = records;
        this.kinds = kinds.stream().collect(Collectors.toMap(OutletKind::name, kind -> kind));
    }

    /**
     * @param found messages that bring it
     * @param wanted those that a lane picks
     * @param written those that the destination took
     * @param refused those that it did not take, and that are not tried again
     * @param waiting those that are still on their way
     * @param last when the newest that was written was measured; null if none was
     * @param value what that brought
     */
    public record Counts(
            String name,
            long found,
            long wanted,
            long written,
            long refused,
            long waiting,
            Instant last,
            Object value) {}

    /**
     * @param known whether the kind knows values by names
     * @param since when the oldest message that was counted came; null if there was none
     * @param messages how many were counted
     * @param more whether there are more tags than are shown
     */
    public record Report(boolean known, Instant since, int messages, boolean more, List<Counts> tags) {}

    /** What is counted of one tag. */
    private static final class Count {
        private long found;
        private long wanted;
        private long written;
        private long refused;
        private long waiting;
        private Instant last;
        private Object value;

        private void state(String state, Instant at, Object its) {
            switch (state) {
                case "delivered" -> {
                    written++;
                    if (last == null || at.isAfter(last)) {
                        last = at;
                        value = its;
                    }
                }
                case "dead", "dropped" -> refused++;
                default -> waiting++;
            }
        }

        private Counts told(String name) {
            return new Counts(name, found, wanted, written, refused, waiting, last, value);
        }
    }

    public Report of(Outlet outlet) {
        Setup setup = setups.current();
        OutletKind kind = kinds.get(outlet.kind());
        if (!kind.knowsTags()) {
            return new Report(false, null, 0, false, List.of());
        }
        Map<String, Count> counts = new TreeMap<>();
        Map<UUID, Instant> seen = new HashMap<>();
        for (Lane lane : setup.lanesTo(outlet.name())) {
            if (lane.memory() == null) {
                count(lane, outlet, kind, counts, seen);
            }
        }
        List<Counts> told = counts.entrySet().stream()
                .limit(MOST_TAGS)
                .map(one -> one.getValue().told(one.getKey()))
                .toList();
        return new Report(
                true,
                seen.values().stream().min(Instant::compareTo).orElse(null),
                seen.size(),
                counts.size() > told.size(),
                told);
    }

    private void count(Lane lane, Outlet outlet, OutletKind kind, Map<String, Count> counts, Map<UUID, Instant> seen) {
        List<Sample.Seen> messages = sample.of(lane.inlets());
        Map<UUID, List<LaneState>> states =
                records.states(messages.stream().map(one -> one.message().id()).toList());
        for (Sample.Seen one : messages) {
            UUID id = one.message().id().value();
            seen.put(id, one.message().id().received());
            List<LaneState> its = states.getOrDefault(id, List.of()).stream()
                    .filter(state -> state.lane().equals(lane.name()) && state.replay() == null)
                    .toList();
            for (String point : points(lane, one)) {
                String state = its.stream()
                        .filter(at -> Objects.equals(at.point(), point))
                        .map(LaneState::state)
                        .findFirst()
                        .orElse(null);
                for (Tag tag : tags(lane, outlet, kind, one, point)) {
                    Count count = counts.computeIfAbsent(tag.name(), fresh -> new Count());
                    count.found++;
                    if (state != null) {
                        count.wanted++;
                        count.state(state, one.message().eventTime(), tag.value());
                    }
                }
            }
        }
    }

    /** Those that the message tells of, picked or not; null for the message as a whole. */
    private static List<String> points(Lane lane, Sample.Seen one) {
        List<String> points = new ArrayList<>();
        if (lane.perPoint()) {
            points.addAll(Points.told(one.scope(), one.model()));
        } else {
            points.add(null);
        }
        return points;
    }

    private List<Tag> tags(Lane lane, Outlet outlet, OutletKind kind, Sample.Seen one, String point) {
        try {
            return kind.tags(
                    outlet,
                    lane.shape()
                            .fill(introductions.seen(Points.scope(one.scope(), one.model(), point), outlet.name())));
        } catch (ShapeFailure | IllegalArgumentException e) {
            return List.of(); // its trace says so, if the lane took it
        }
    }
}
