package org.holtra.core.picking;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.holtra.core.expression.Scope;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;

/** Which lanes take a message, and why others do not. */
public final class Picker {

    /** @param whyNot null if the lane takes the message */
    public record Decision(Lane lane, String whyNot) {

        public boolean picked() {
            return whyNot == null;
        }
    }

    private Picker() {}

    /** The lanes of an inlet that take a message. A message pays for the lanes of its own inlet only. */
    public static List<Lane> lanes(Setup setup, String inlet, Scope scope) {
        List<Lane> taken = new ArrayList<>();
        for (Lane lane : setup.lanesOf(inlet)) {
            if (lane.pick() == null || lane.pick().holds(scope)) {
                taken.add(lane);
            }
        }
        return taken;
    }

    /** The same, with the reason of each lane that does not. */
    public static List<Decision> decisions(Setup setup, String inlet, Scope scope) {
        return setup.lanesOf(inlet).stream()
                .map(lane -> new Decision(
                        lane,
                        Optional.ofNullable(lane.pick())
                                .flatMap(pick -> pick.whyNot(scope))
                                .orElse(null)))
                .toList();
    }
}
