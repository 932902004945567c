package org.holtra.core.setup.compile;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Expression;
import org.holtra.core.lookout.Level;
import org.holtra.core.lookout.Move;
import org.holtra.core.lookout.Sign;
import org.holtra.core.lookout.Silence;
import org.holtra.core.lookout.Stuck;
import org.holtra.core.lookout.Watch;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Lookout;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.document.SetupDocument;

/** Compiles lookouts. */
public final class LookoutParts {

    private static final List<String> SIGNS = List.of("above", "below", "rises", "falls", "stuck", "silent");
    private static final String RHYTHM = "rhythm";

    private final Pieces pieces;
    private final LaneParts lanes;

    /** @param lanes which compile what messages are looked at */
    LookoutParts(Pieces pieces, LaneParts lanes) {
        this.pieces = pieces;
        this.lanes = lanes;
    }

    Lookout lookout(String name, Map<String, Object> fields) {
        String at = "/lookouts/" + name;
        Lane.Selection selection = lanes.selection(fields, at);
        if (selection.inlets().contains(Setup.OWN_INLET)) {
            pieces.wrong(
                    at + "/inlets", "a lookout does not look at Holtra's own messages, among which its alarms are");
        }
        Sign sign = sign(fields, at);
        Expression value = pieces.expression(fields, "value", at);
        boolean silence = fields.containsKey("silent");
        if (sign != null && silence == fields.containsKey("value")) {
            pieces.wrong(
                    silence ? at + "/value" : at,
                    silence
                            ? "a lookout for silence watches no value; leave it out"
                            : "say what is watched: `value: data.wetBulb`");
        }
        return new Lookout(
                name,
                selection,
                "point".equals(fields.get("per")),
                value,
                pieces.expression(fields, "key", at),
                Pieces.span(fields, "lateness", Duration.ZERO),
                new Watch(
                        sign, Pieces.span(fields, "hold", Duration.ZERO), Pieces.span(fields, "quiet", Duration.ZERO)));
    }

    private Sign sign(Map<String, Object> fields, String at) {
        List<String> said = SIGNS.stream().filter(fields::containsKey).toList();
        if (said.size() != 1) {
            pieces.wrong(
                    at,
                    "a lookout goes by one of " + String.join(", ", SIGNS)
                            + (said.isEmpty() ? "; say which" : ", and not both " + String.join(" and ", said)));
            return null;
        }
        String word = said.getFirst();
        Map<String, Object> its = SetupDocument.block(fields.get(word));
        return switch (word) {
            case "above", "below" -> level(word.equals("above"), its, at + "/" + word);
            case "rises", "falls" ->
                new Move(word.equals("rises"), number(its, "by"), Pieces.span(its, "within", Duration.ZERO));
            case "stuck" -> new Stuck(number(its, "band"), Pieces.span(its, "after", Duration.ZERO));
            default -> new Silence(RHYTHM.equals(fields.get(word)) ? null : Pieces.span(fields, word, null));
        };
    }

    private Level level(boolean above, Map<String, Object> fields, String at) {
        double on = number(fields, "on");
        Double off = Pieces.number(fields, "off");
        if (off != null && (above ? off > on : off < on)) {
            pieces.wrong(
                    at + "/off",
                    "an alarm that is raised " + (above ? "above " : "below ") + on + " must be cleared at or "
                            + (above ? "below" : "above") + " that");
        }
        return new Level(above, on, off == null ? on : off);
    }

    /** Zero where there is none, which the schema tells of. */
    private static double number(Map<String, Object> fields, String name) {
        Double number = Pieces.number(fields, name);
        return number == null ? 0 : number;
    }
}
