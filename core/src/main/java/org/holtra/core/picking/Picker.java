package org.holtra.core.picking;

import java.util.ArrayList;
import java.util.List;
import org.holtra.core.expression.Scope;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.Setup;

/** Which lanes take a message, and why others do not. */
public final class Picker {

    /**
     * What a lane takes.
     *
     * @param point of the device; null if it is the message as a whole
     */
    public record Take(Lane lane, String point) {}

    /** @param whyNot null if the lane takes the message, or a point of it */
    public record Decision(Lane lane, String whyNot) {

        public boolean picked() {
            return whyNot == null;
        }
    }

    private Picker() {}

    /**
     * What the lanes of an inlet take of a message, which pays for the lanes of its own inlet only.
     *
     * @param model of its device, or null
     */
    public static List<Take> takes(Setup setup, String inlet, Scope scope, Model model) {
        List<Take> taken = new ArrayList<>();
        for (Lane lane : setup.lanesOf(inlet)) {
            take(lane, scope, model, taken);
        }
        return taken;
    }

    /** What one lane takes. */
    public static List<Take> takes(Lane lane, Scope scope, Model model) {
        List<Take> taken = new ArrayList<>();
        take(lane, scope, model, taken);
        return taken;
    }

    private static void take(Lane lane, Scope scope, Model model, List<Take> taken) {
        if (!lane.perPoint()) {
            if (lane.takes(scope)) {
                taken.add(new Take(lane, null));
            }
            return;
        }
        for (String point : Points.told(scope, model)) {
            if (lane.takes(Points.scope(scope, model, point))) {
                taken.add(new Take(lane, point));
            }
        }
    }

    /** The same, with the reason of each lane that takes nothing. */
    public static List<Decision> decisions(Setup setup, String inlet, Scope scope, Model model) {
        return setup.lanesOf(inlet).stream()
                .map(lane -> new Decision(lane, whyNot(lane, scope, model)))
                .toList();
    }

    /** Why a lane takes nothing of a message, in words; null if it does. */
    public static String whyNot(Lane lane, Scope scope, Model model) {
        if (!lane.perPoint()) {
            return lane.whyNot(scope).orElse(null);
        }
        List<String> points = Points.told(scope, model);
        if (points.isEmpty()) {
            return "it takes points, and this message tells of none";
        }
        String why = null;
        for (String point : points) {
            String here = lane.whyNot(Points.scope(scope, model, point)).orElse(null);
            if (here == null) {
                return null;
            }
            why = why == null ? "point " + point + ": " + here : why + "; point " + point + ": " + here;
        }
        return why;
    }
}
