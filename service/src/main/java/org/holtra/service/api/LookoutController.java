package org.holtra.service.api;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.holtra.core.lookout.Level;
import org.holtra.core.lookout.Move;
import org.holtra.core.lookout.Sign;
import org.holtra.core.lookout.Silence;
import org.holtra.core.lookout.Stuck;
import org.holtra.core.memory.Figure;
import org.holtra.core.setup.Lookout;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.core.setup.document.SetupProblem;
import org.holtra.service.journal.entry.Remembered;
import org.holtra.service.lookouts.Alarms;
import org.holtra.service.lookouts.LookoutRehearsal;
import org.holtra.service.setups.Setups;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** What watches for signs, and how it would have done. */
@RestController
@RequestMapping("/api/v1/lookouts")
class LookoutController {

    /**
     * @param goesBy what raises and clears its alarms, in words
     * @param on from which value on an alarm is raised, and {@code off} from which it is cleared; null if not by a level
     * @param watched how many keys it has met
     * @param open how many alarms are raised
     * @param lately how many were raised in the last seven days
     */
    record LookoutView(
            String name,
            Set<String> inlets,
            String value,
            String goesBy,
            Double on,
            Double off,
            boolean perPoint,
            int watched,
            int open,
            int lately,
            Instant last) {}

    /**
     * @param fields as in a setup file; null for the active lookout
     * @param device whose messages are gone through; null for all
     * @param key whose values are wanted; null for that with the most alarms
     */
    record Rehearsing(Map<String, Object> fields, Instant from, Instant to, String device, String key) {}

    /** @param problems why it cannot be rehearsed; then there is nothing else */
    record Answer(List<SetupProblem> problems, Double on, Double off, LookoutRehearsal.Rehearsed rehearsed) {}

    private static final Duration LATELY = Duration.ofDays(7);
    private static final Duration USUAL = Duration.ofDays(1);

    private final Setups setups;
    private final SetupCompiler compiler;
    private final Alarms alarms;
    private final LookoutRehearsal rehearsal;
    private final InstantSource clock;

    LookoutController(
            Setups setups, SetupCompiler compiler, Alarms alarms, LookoutRehearsal rehearsal, InstantSource clock) {
        this.setups = setups;
        this.compiler = compiler;
        this.alarms = alarms;
        this.rehearsal = rehearsal;
        this.clock = clock;
    }

    /** The lookouts, and what each raised. */
    @GetMapping
    List<LookoutView> list() {
        Map<String, Lookout> lookouts = setups.current().lookouts();
        Map<String, Alarms.Record> records =
                alarms.records(List.copyOf(lookouts.keySet()), clock.instant().minus(LATELY)).stream()
                        .collect(Collectors.toMap(Alarms.Record::lookout, Function.identity()));
        Map<String, Integer> watched =
                alarms
                        .watched(lookouts.keySet().stream()
                                .map(name -> Remembered.LOOKOUT + name)
                                .toList())
                        .stream()
                        .collect(Collectors.toMap(one -> Remembered.lookout(one.lane()), Alarms.Watched::keys));
        return lookouts.values().stream()
                .map(one -> view(one, records.get(one.name()), watched.getOrDefault(one.name(), 0)))
                .toList();
    }

    /** How often a lookout would have raised an alarm; nothing is kept, and nobody is told. */
    @PostMapping("/{name}/rehearse")
    Answer rehearse(@PathVariable String name, @RequestBody Rehearsing wish) {
        Setup setup = setups.current();
        Lookout lookout;
        if (wish.fields() == null) {
            lookout = setup.lookouts().get(name);
            if (lookout == null) {
                throw Problem.notFound("lookout", name);
            }
        } else {
            SetupCompiler.LookoutResult result = compiler.lookout(setup, name, wish.fields());
            if (result.lookout().isEmpty()) {
                return new Answer(result.problems(), null, null, null);
            }
            lookout = result.lookout().get();
        }
        Instant to = wish.to() == null ? clock.instant() : wish.to();
        Instant from = wish.from() == null ? to.minus(USUAL) : wish.from();
        if (!from.isBefore(to)) {
            throw Problem.badRequest("to", "The time ends before it begins.");
        }
        Sign sign = lookout.watch().sign();
        return new Answer(
                List.of(),
                on(sign),
                off(sign),
                rehearsal.run(lookout, setup, new LookoutRehearsal.Over(from, to, wish.device(), wish.key())));
    }

    private static LookoutView view(Lookout one, Alarms.Record record, int watched) {
        Sign sign = one.watch().sign();
        return new LookoutView(
                one.name(),
                one.selection().inlets(),
                one.value() == null ? null : one.value().source(),
                words(one),
                on(sign),
                off(sign),
                one.perPoint(),
                watched,
                record == null ? 0 : record.open(),
                record == null ? 0 : record.raised(),
                record == null ? null : record.last());
    }

    private static Double on(Sign sign) {
        return sign instanceof Level level ? (Double) level.on() : null;
    }

    private static Double off(Sign sign) {
        return sign instanceof Level level ? (Double) level.off() : null;
    }

    private static String words(Lookout one) {
        String value = one.value() == null ? "" : one.value().source() + " ";
        String sign = switch (one.watch().sign()) {
            case Level level ->
                value
                        + (level.above() ? "at or above " : "at or below ")
                        + Figure.of(level.on())
                        + (level.on() == level.off() ? "" : ", until it is back at " + Figure.of(level.off()));
            case Move move ->
                value + (move.rises() ? "rises by " : "falls by ") + Figure.of(move.by()) + " within "
                        + Sign.words(move.within());
            case Stuck stuck -> value + "does not move for " + Sign.words(stuck.after());
            case Silence silence ->
                silence.after() == null
                        ? "nothing comes, by the rhythm of each"
                        : "nothing comes for " + Sign.words(silence.after());
        };
        Duration hold = one.watch().hold();
        Duration quiet = one.watch().quiet();
        return sign
                + (hold.isZero() ? "" : "; for " + Sign.words(hold))
                + (quiet.isZero() ? "" : "; quiet for " + Sign.words(quiet) + " after");
    }
}
