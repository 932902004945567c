package org.holtra.service.workbench;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.holtra.core.picking.Picker;
import org.holtra.core.picking.Points;
import org.holtra.core.setup.Lane;
import org.holtra.core.shape.Content;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/** What lanes would send to an outlet now: for each the content of the newest message that it takes. */
@Component
public class LaneSamples {

    private final Setups setups;
    private final Sample sample;
    private final Introductions introductions;

    LaneSamples(Setups setups, Sample sample, Introductions introductions) {
        this.introductions = introductions;
        this.setups = setups;
        this.sample = sample;
    }

    /** Without lanes that combine messages, whose content is not that of one. */
    public List<Content> of(String outlet) {
        List<Content> contents = new ArrayList<>();
        for (Lane lane : setups.current().lanesTo(outlet)) {
            if (lane.memory() == null) {
                newest(lane).ifPresent(contents::add);
            }
        }
        return contents;
    }

    private Optional<Content> newest(Lane lane) {
        for (Sample.Seen seen : sample.of(lane.inlets())) {
            List<Picker.Take> takes = Picker.takes(lane, seen.scope(), seen.model());
            if (!takes.isEmpty()) {
                try {
                    return Optional.of(lane.shape()
                            .fill(introductions.seen(
                                    Points.scope(
                                            seen.scope(),
                                            seen.model(),
                                            takes.getFirst().point()),
                                    lane.outlet())));
                } catch (ShapeFailure e) {
                    return Optional.empty(); // its trace and the workbench say so
                }
            }
        }
        return Optional.empty();
    }
}
