package org.holtra.service.lookouts;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.holtra.core.expression.Scope;
import org.holtra.core.lookout.Silence;
import org.holtra.core.lookout.Watch;
import org.holtra.core.memory.Input;
import org.holtra.core.memory.Step;
import org.holtra.core.memory.Timeline;
import org.holtra.core.picking.Points;
import org.holtra.core.setup.Lookout;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.Setup;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Measured;
import org.holtra.service.reading.Past;
import org.holtra.service.reading.Readings;
import org.springframework.stereotype.Component;

/** Runs a lookout, active or not, over stored messages: how often it would have raised an alarm. Nothing is kept. */
@Component
public class LookoutRehearsal {

    /**
     * @param device whose messages are gone through; null for all
     * @param key whose values are wanted; null for that with the most alarms
     */
    public record Over(Instant from, Instant to, String device, String key) {}

    /** @param cleared null if it would still be raised at the end */
    public record Would(String key, Instant since, Instant raised, Instant cleared, Double extreme, String text) {}

    /** @param raised how many alarms it would have had */
    public record Key(String key, int messages, int raised) {}

    /**
     * @param messages that it would have looked at
     * @param cut whether there were more than are gone through
     * @param keys those with the most alarms first; at most a hundred
     * @param shown the key that the values are of; null if there are none
     */
    public record Rehearsed(
            Instant from,
            Instant to,
            int messages,
            boolean cut,
            int watched,
            List<Would> alarms,
            List<Key> keys,
            String shown,
            List<Measured> values) {}

    private final Past past;
    private final Readings readings;
    private final Listening listening;

    LookoutRehearsal(Past past, Readings readings, Listening listening) {
        this.past = past;
        this.readings = readings.forHistory();
        this.listening = listening;
    }

    public Rehearsed run(Lookout lookout, Setup setup, Over over) {
        Past.Messages found = past.of(new Past.Wanted(lookout.selection().inlets(), over.device, over.from, over.to));
        Map<String, List<Input>> byKey = new TreeMap<>();
        int messages = 0;
        for (StoredMessage one : found.messages()) {
            messages += look(one, lookout, setup, byKey) ? 1 : 0;
        }
        List<Would> alarms = new ArrayList<>();
        Map<String, Integer> raised = new HashMap<>();
        byKey.forEach((key, inputs) -> {
            List<Would> its = alarms(key, inputs, lookout, over.to);
            alarms.addAll(its);
            raised.put(key, its.size());
        });
        alarms.sort(Comparator.comparing(Would::raised));
        List<Key> keys = byKey.entrySet().stream()
                .map(entry -> new Key(entry.getKey(), entry.getValue().size(), raised.get(entry.getKey())))
                .sorted(Comparator.comparingInt(Key::raised).reversed().thenComparing(Key::key))
                .toList();
        String first = keys.isEmpty() ? null : keys.getFirst().key();
        String shown = over.key != null && byKey.containsKey(over.key) ? over.key : first;
        return new Rehearsed(
                over.from,
                over.to,
                messages,
                found.cut(),
                keys.size(),
                List.copyOf(alarms.subList(0, Math.min(alarms.size(), 500))),
                keys.subList(0, Math.min(keys.size(), 100)),
                shown,
                shown == null ? List.of() : values(byKey.get(shown)));
    }

    private boolean look(StoredMessage one, Lookout lookout, Setup setup, Map<String, List<Input>> byKey) {
        Optional<Scope> seen = past.scope(one, setup);
        if (seen.isEmpty()) {
            return false;
        }
        Scope scope = seen.get();
        if (!lookout.perPoint()) {
            return look(one, lookout, scope, null, byKey);
        }
        Model model = Readings.model(readings.device(one), setup);
        boolean any = false;
        for (String point : Points.told(scope, model)) {
            any |= look(one, lookout, Points.scope(scope, model, point), point, byKey);
        }
        return any;
    }

    private static boolean look(
            StoredMessage one, Lookout lookout, Scope scope, String point, Map<String, List<Input>> byKey) {
        if (!lookout.watches(scope)) {
            return false;
        }
        Double value = lookout.valueIn(scope);
        byKey.computeIfAbsent(lookout.keyOf(scope, point), key -> new ArrayList<>())
                .add(Input.of(
                        one.id().value(),
                        one.id().received(),
                        one.eventTime(),
                        value == null ? Map.of() : Map.of(Watch.VALUE, value)));
        return true;
    }

    private List<Would> alarms(String key, List<Input> inputs, Lookout lookout, Instant to) {
        Timeline<Watch.State> timeline = new Timeline<>(lookout.watch(), lookout.lateness(), false);
        Timeline.State<Watch.State> state = timeline.empty();
        List<Step.Made> made = new ArrayList<>();
        for (Input input : inputs) {
            state = excused(state, timeline, lookout, input.received());
            Step<Timeline.State<Watch.State>> step = timeline.advance(state, List.of(input), input.received());
            state = step.state();
            made.addAll(step.made());
        }
        state = excused(state, timeline, lookout, to);
        made.addAll(timeline.advance(state, List.of(), to).made());
        return paired(key, made);
    }

    private Timeline.State<Watch.State> excused(
            Timeline.State<Watch.State> state, Timeline<Watch.State> timeline, Lookout lookout, Instant now) {
        if (!(lookout.watch().sign() instanceof Silence)
                || state.own().seen().heard() == null
                || timeline.due(state).filter(due -> !due.isAfter(now)).isEmpty()) {
            return state;
        }
        Watch.State own = state.own();
        for (Listening.Deaf deaf :
                listening.deaf(lookout.selection().inlets(), own.seen().heard(), now)) {
            own = lookout.watch().excused(own, deaf.until().isAfter(now) ? now : deaf.until());
        }
        return new Timeline.State<>(state.waiting(), own);
    }

    private static List<Would> paired(String key, List<Step.Made> made) {
        List<Would> alarms = new ArrayList<>();
        for (Step.Made one : made) {
            Double extreme = (Double) one.data().get("extreme");
            if (Watch.RAISED.equals(one.data().get(Watch.STATE))) {
                alarms.add(new Would(
                        key,
                        Instant.parse(one.data().get("since").toString()),
                        one.at(),
                        null,
                        extreme,
                        one.data().get("text").toString()));
            } else if (!alarms.isEmpty()) {
                Would open = alarms.removeLast();
                alarms.add(new Would(key, open.since, open.raised, one.at(), extreme, open.text));
            }
        }
        return alarms;
    }

    private static List<Measured> values(List<Input> inputs) {
        return Measured.drawn(inputs.stream()
                .filter(input -> input.number(Watch.VALUE) != null)
                .map(input -> new Measured(input.at(), input.number(Watch.VALUE)))
                .toList());
    }
}
