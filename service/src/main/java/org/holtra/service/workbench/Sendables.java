package org.holtra.service.workbench;

import java.util.ArrayList;
import java.util.List;
import org.holtra.core.expression.Scope;
import org.holtra.core.message.Message;
import org.holtra.core.picking.Picker;
import org.holtra.core.picking.Points;
import org.holtra.core.reading.Meta;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.dispatch.NotPresented;
import org.holtra.service.dispatch.Presented;
import org.holtra.service.dispatch.Presenting;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.springframework.stereotype.Component;

/** What a lane would send of a message: the whole, its points, or what its memory makes of it and others. */
@Component
class Sendables {

    /** More of what a message is split into are not shown. */
    private static final int MOST = 20;

    /**
     * @param point of the device, or null
     * @param message what would be sent, as the journal has it or would have it
     * @param scope what the shape sees
     */
    record Sendable(String point, StoredMessage message, Scope scope) {

        String device() {
            return message.device();
        }
    }

    /** @param becomes what becomes of the message in the lane's memory; null if it goes by itself */
    record Found(List<Sendable> all, String becomes) {}

    private final Readings readings;
    private final MemoryTrial memories;
    private final Introductions introductions;
    private final Presenting presenting;

    Sendables(Readings readings, MemoryTrial memories, Introductions introductions, Presenting presenting) {
        this.presenting = presenting;
        this.introductions = introductions;
        this.readings = readings.forTries();
        this.memories = memories;
    }

    /** What stands in the place of the outlet's credential where it is only shown; null for that. */
    Presented shown(Outlet outlet, Sendable one) {
        return presenting.shown(
                outlet, introductions.known(outlet.name(), one.device()).orElse(null));
    }

    /**
     * What it presents in place of the outlet's credential; null for that.
     *
     * @throws NotPresented if there is none to present
     */
    Presented presented(Outlet outlet, Sendable one) throws NotPresented {
        return presenting.of(
                outlet, introductions.known(outlet.name(), one.device()).orElse(null), one.scope());
    }

    /** What expressions see of a message that a lane is tried on. */
    Scope scope(Subjects.Subject subject, Setup setup) {
        return readings.scope(subject.message(), subject.device(), setup);
    }

    /**
     * What is not taken, or held back, is given all the same: whoever writes a shape wants to see it fill.
     *
     * @param scope of the whole message
     * @throws UnreadableContent if what the lane would make cannot be read
     */
    Found of(Lane lane, Setup setup, Subjects.Subject subject, Scope scope) throws UnreadableContent {
        Model model = Readings.model(subject.device(), setup);
        List<Picker.Take> takes = Picker.takes(lane, scope, model);
        String becomes = null;
        if (lane.memory() != null && !takes.isEmpty()) {
            MemoryTrial.Becomes trial = memories.of(lane, setup, subject.stored(), scope);
            becomes = trial.words();
            if (!trial.sent().isEmpty()) {
                return new Found(made(lane, trial, setup, subject), becomes);
            }
        }
        List<String> points = new ArrayList<>();
        takes.forEach(take -> points.add(take.point()));
        if (points.isEmpty()) {
            points.add(
                    lane.perPoint() && model != null && !model.points().isEmpty()
                            ? model.points().keySet().iterator().next()
                            : null);
        }
        return new Found(
                points.stream()
                        .map(point -> new Sendable(
                                point,
                                subject.stored(),
                                introductions.seen(Points.scope(scope, model, point), lane.outlet())))
                        .toList(),
                becomes);
    }

    private List<Sendable> made(Lane lane, MemoryTrial.Becomes trial, Setup setup, Subjects.Subject subject)
            throws UnreadableContent {
        List<Sendable> all = new ArrayList<>();
        for (StoredMessage one :
                trial.sent().subList(0, Math.min(MOST, trial.sent().size()))) {
            Message read = one.id().equals(subject.stored().id()) ? subject.message() : readings.again(one, setup);
            Message told = trial.late() ? read.marked(Meta.LATE, true) : read;
            Scope scope = readings.scope(told, subject.device(), setup);
            all.add(new Sendable(null, one, introductions.seen(scope, lane.outlet())));
        }
        return all;
    }
}
