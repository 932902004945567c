package org.holtra.service.lookouts;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.stream.Stream;
import org.holtra.core.expression.Scope;
import org.holtra.core.lookout.Silence;
import org.holtra.core.lookout.Watch;
import org.holtra.core.memory.Input;
import org.holtra.core.memory.Step;
import org.holtra.core.memory.Timeline;
import org.holtra.core.message.MessageId;
import org.holtra.core.reading.content.CodecUnavailable;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Lookout;
import org.holtra.core.setup.Setup;
import org.holtra.service.intake.OwnMessages;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.Remembered;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.memory.Came;
import org.holtra.service.memory.Notes;
import org.holtra.service.memory.RememberedKey;
import org.holtra.service.memory.States;
import org.holtra.service.memory.TimelineStep;
import org.holtra.service.reading.Readings;
import org.holtra.service.reading.Whose;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** Brings messages to the lookouts that look at them, and raises and clears their alarms. */
final class LookoutStep implements TimelineStep {

    /** While nobody is known to have listened, a silence that is due is looked at again after so long. */
    private static final Duration LOOK_AGAIN = Duration.ofSeconds(2);

    private static final Logger log = LoggerFactory.getLogger(LookoutStep.class);

    /** What it reads from and tells. */
    @Component
    record Outside(Alarms alarms, Listening listening, OwnMessages messages, Readings readings, InstantSource clock) {}

    private final Setup setup;
    private final States states;
    private final Notes notes;
    private final Outside outside;
    private final List<Delivery.Owed> owed = new ArrayList<>();

    LookoutStep(Setup setup, States states, Notes notes, Outside outside) {
        this.setup = setup;
        this.states = states;
        this.notes = notes;
        this.outside = outside;
    }

    @Override
    public List<Delivery.Owed> owed() {
        return owed;
    }

    @Override
    public void take(RememberedKey row, List<Came> came, Map<UUID, StoredMessage> messages, Instant now)
            throws CodecUnavailable {
        Lookout lookout = setup.lookouts().get(Remembered.lookout(row.lane()));
        Watch watch = lookout.watch();
        Timeline<Watch.State> timeline = new Timeline<>(watch, lookout.lateness(), false);
        Timeline.State<Watch.State> state = state(row, lookout, timeline);
        List<Input> inputs = new ArrayList<>();
        List<UUID> unreadable = new ArrayList<>();
        Whose of = new Whose(row.device(), row.simulated());
        for (Came one : came) {
            StoredMessage stored = messages.get(one.message());
            Optional<Input> input = stored == null ? Optional.empty() : input(lookout, row.key(), stored);
            if (input.isPresent()) {
                inputs.add(input.get());
                of = new Whose(stored.device(), stored.simulated());
            } else {
                unreadable.add(one.message());
            }
        }
        unreadable.forEach(message -> notes.letGo(row.lane(), message));
        Step<Timeline.State<Watch.State>> step = watch.sign() instanceof Silence
                ? listened(lookout, timeline, state, inputs, heardUpTo(lookout, now))
                : timeline.advance(state, inputs, now);
        Set<UUID> waiting = new TreeSet<>();
        step.state().waiting().forEach(one -> waiting.add(one.message()));
        Stream.concat(inputs.stream(), state.waiting().stream())
                .map(Input::message)
                .filter(id -> !waiting.contains(id))
                .forEach(id -> notes.letGo(row.lane(), id));
        Watch.State own = step.state().own();
        if (step.made().isEmpty()
                && own.open()
                && !Objects.equals(own.extreme(), state.own().extreme())) {
            outside.alarms.further(lookout.name(), row.key(), own.extreme(), own.extremeAt());
        }
        for (Step.Made made : step.made()) {
            tell(lookout, row.key(), made, of);
        }
        Instant due = timeline.due(step.state()).orElse(null);
        notes.state(
                row,
                row.zone(),
                timeline,
                step.state(),
                due != null && !due.isAfter(now) ? now.plus(LOOK_AGAIN) : due,
                null,
                !came.isEmpty(),
                of);
    }

    /** What was remembered; if the lookout has changed, only that its alarm is raised. */
    private Timeline.State<Watch.State> state(RememberedKey row, Lookout lookout, Timeline<Watch.State> timeline) {
        if (row.isNew() || row.operation().equals(States.words(timeline.operation()))) {
            return states.read(timeline, row);
        }
        return outside.alarms
                .open(lookout.name(), row.key())
                .map(alarm -> new Timeline.State<>(
                        List.<Input>of(),
                        lookout.watch().resumed(alarm.since(), alarm.cause(), alarm.extreme(), alarm.extremeAt())))
                .orElseGet(timeline::empty);
    }

    /** @throws CodecUnavailable if it cannot be read now */
    private Optional<Input> input(Lookout lookout, String key, StoredMessage stored) throws CodecUnavailable {
        if (lookout.watchesForSilence()) {
            // That it came is enough, also where it cannot be read yet.
            Instant at = stored.eventTime() == null ? stored.id().received() : stored.eventTime();
            return Optional.of(Input.of(stored.id().value(), stored.id().received(), at, Map.of()));
        }
        try {
            Scope scope = outside.readings.scope(stored, setup, lookout.pointOf(key));
            Double value = lookout.valueIn(scope);
            return Optional.of(Input.of(
                    stored.id().value(),
                    stored.id().received(),
                    stored.eventTime(),
                    value == null ? Map.of() : Map.of(Watch.VALUE, value)));
        } catch (CodecUnavailable e) {
            throw e;
        } catch (UnreadableContent e) {
            log.debug("Lookout {} cannot read {}: {}", lookout.name(), stored.id(), e.getMessage());
            return Optional.empty();
        }
    }

    /**
     * Does what is due up to when it is known that somebody listened. From one message to the next, since each tells anew
     * from when on a silence counts.
     */
    private Step<Timeline.State<Watch.State>> listened(
            Lookout lookout,
            Timeline<Watch.State> timeline,
            Timeline.State<Watch.State> state,
            List<Input> inputs,
            Instant known) {
        List<Input> waiting = new ArrayList<>(state.waiting());
        waiting.addAll(inputs);
        List<Instant> times = new ArrayList<>(waiting.stream()
                .map(one -> one.received().plus(lookout.lateness()))
                .filter(time -> time.isBefore(known))
                .sorted()
                .distinct()
                .toList());
        times.add(known);
        Step<Timeline.State<Watch.State>> done = Step.of(new Timeline.State<>(waiting, state.own()));
        for (Instant time : times) {
            Timeline.State<Watch.State> next = excused(lookout, timeline, done.state(), time);
            done = done.then(timeline.advance(next, List.of(), time));
        }
        return done;
    }

    private Instant heardUpTo(Lookout lookout, Instant now) {
        Instant upTo = outside.listening.heardUpTo(lookout.selection().inlets()).orElse(Instant.EPOCH);
        return upTo.isBefore(now) ? upTo : now;
    }

    /** Silence while nobody listened is none of the device's. */
    private Timeline.State<Watch.State> excused(
            Lookout lookout, Timeline<Watch.State> timeline, Timeline.State<Watch.State> state, Instant known) {
        Watch.State own = state.own();
        Instant due = timeline.due(state).orElse(null);
        if (due == null || due.isAfter(known) || own.seen().heard() == null) {
            return state;
        }
        for (Listening.Deaf deaf :
                outside.listening.deaf(lookout.selection().inlets(), own.seen().heard(), known)) {
            own = lookout.watch().excused(own, deaf.until());
        }
        return new Timeline.State<>(state.waiting(), own);
    }

    private void tell(Lookout lookout, String key, Step.Made made, Whose of) {
        MessageId id = MessageId.derived(
                made.name().stamp(),
                List.of(Remembered.LOOKOUT + lookout.name(), key, made.name().text()));
        boolean raised = Watch.RAISED.equals(made.data().get(Watch.STATE));
        Alarm alarm = raised
                ? raise(id, lookout, key, made, of)
                : outside.alarms.open(lookout.name(), key).orElse(null);
        if (alarm == null) {
            return;
        }
        if (!raised) {
            outside.alarms.clear(alarm, made.at(), (Double) made.data().get("extreme"), instant(made, "extremeAt"));
        }
        if (alarm.told()) {
            Map<String, Object> data = AlarmWords.data(alarm, made.data());
            UUID cause = raised ? alarm.cause() : null;
            owed.addAll(outside.messages.keep(
                    List.of(OwnMessages.Own.alarm(id, data, of.device(), of.simulated(), cause)),
                    setup,
                    outside.clock.instant()));
        }
    }

    private Alarm raise(MessageId id, Lookout lookout, String key, Step.Made made, Whose of) {
        Object cause = made.data().get("cause");
        Alarm alarm = new Alarm(
                id.value(),
                null,
                lookout.name(),
                key,
                of.device(),
                lookout.pointOf(key),
                of.simulated(),
                instant(made, "since"),
                made.at(),
                null,
                cause == null ? null : UUID.fromString(cause.toString()),
                made.data().get("text").toString(),
                (Double) made.data().get(Watch.VALUE),
                (Double) made.data().get("extreme"),
                instant(made, "extremeAt"),
                !outside.alarms.isShelved(lookout.name(), key),
                null,
                null,
                null);
        outside.alarms.raise(alarm);
        return alarm;
    }

    private static Instant instant(Step.Made made, String name) {
        Object text = made.data().get(name);
        return text == null ? null : Instant.parse(text.toString());
    }

    /** What was raised while it was shelved, and is shelved no longer, is told of now. */
    @Override
    public void catchUp() {
        Instant now = outside.clock.instant();
        for (Alarm alarm : outside.alarms.untold()) {
            Map<String, Object> made = new LinkedHashMap<>();
            made.put(Watch.STATE, Watch.RAISED);
            made.put("text", alarm.text());
            made.put("since", alarm.since().toString());
            made.put("at", now.toString());
            owed.addAll(outside.messages.keep(
                    List.of(OwnMessages.Own.alarm(
                            MessageId.derived(now, List.of(alarm.id().toString(), "unshelved")),
                            AlarmWords.data(alarm, made),
                            alarm.device(),
                            alarm.simulated(),
                            alarm.cause())),
                    setup,
                    now));
        }
    }

    @Override
    public void release(String name, MessageId message) {
        log.debug("Lookout {} is gone and lets {} go", Remembered.lookout(name), message);
    }

    @Override
    public void released(String name) {
        outside.alarms.abandon(Remembered.lookout(name));
    }
}
