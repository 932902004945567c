package org.holtra.service.memory;

import java.time.Duration;
import java.time.Instant;
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
import org.holtra.service.lookouts.Alarm;
import org.holtra.service.lookouts.AlarmWords;
import org.holtra.service.lookouts.Alarms;
import org.holtra.service.lookouts.Listening;
import org.holtra.service.reading.Whose;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** Brings messages to the lookouts that look at them, and raises and clears their alarms. */
final class Watchkeeping {

    /** While nobody is known to have listened, a silence that is due is looked at again after so long. */
    private static final Duration LOOK_AGAIN = Duration.ofSeconds(2);

    private static final Logger log = LoggerFactory.getLogger(Watchkeeping.class);

    /** What it tells of. */
    @Component
    record Book(Alarms alarms, Listening listening, OwnMessages messages) {}

    private final Setup setup;
    private final States states;
    private final Notes notes;
    private final Memories.Store store;
    private final Book book;
    private final List<Delivery.Owed> owed = new ArrayList<>();

    Watchkeeping(Setup setup, States states, Notes notes, Memories.Store store, Book book) {
        this.setup = setup;
        this.states = states;
        this.notes = notes;
        this.store = store;
        this.book = book;
    }

    /** What is owed for what it told. */
    List<Delivery.Owed> owed() {
        return owed;
    }

    /** @param came messages that came to the key, as the journal has them */
    void take(MemoryMapper.Row row, List<MemoryMapper.Came> came, Map<UUID, StoredMessage> messages, Instant now)
            throws CodecUnavailable {
        Lookout lookout = setup.lookouts().get(Remembered.lookout(row.lane()));
        Watch watch = lookout.watch();
        Timeline<Watch.State> timeline = new Timeline<>(watch, lookout.lateness(), false);
        Timeline.State<Watch.State> state = state(row, lookout, timeline);
        List<Input> inputs = new ArrayList<>();
        List<UUID> unreadable = new ArrayList<>();
        Whose of = new Whose(row.device(), row.simulated());
        for (MemoryMapper.Came one : came) {
            StoredMessage stored = messages.get(one.message());
            Optional<Input> input = stored == null ? Optional.empty() : input(lookout, row.key(), stored);
            if (input.isPresent()) {
                inputs.add(input.get());
                of = new Whose(stored.device(), stored.simulated());
            } else {
                unreadable.add(one.message());
            }
        }
        unreadable.forEach(message -> notes.let(row.lane(), message));
        Step<Timeline.State<Watch.State>> step = watch.sign() instanceof Silence
                ? listened(lookout, timeline, state, inputs, heardUpTo(lookout, now))
                : timeline.advance(state, inputs, now);
        Set<UUID> waiting = new TreeSet<>();
        step.state().waiting().forEach(one -> waiting.add(one.message()));
        Stream.concat(inputs.stream(), state.waiting().stream())
                .map(Input::message)
                .filter(id -> !waiting.contains(id))
                .forEach(id -> notes.let(row.lane(), id));
        Watch.State own = step.state().own();
        if (step.made().isEmpty()
                && own.open()
                && !Objects.equals(own.extreme(), state.own().extreme())) {
            book.alarms.further(lookout.name(), row.key(), own.extreme(), own.extremeAt());
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
    private Timeline.State<Watch.State> state(MemoryMapper.Row row, Lookout lookout, Timeline<Watch.State> timeline) {
        if (row.operation().isEmpty() || row.operation().equals(States.words(timeline.operation()))) {
            return states.read(timeline, row);
        }
        return book.alarms
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
            Scope scope = store.readings().scope(stored, setup, lookout.pointOf(key));
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
        Instant upTo = book.listening.heardUpTo(lookout.selection().inlets()).orElse(Instant.EPOCH);
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
                book.listening.deaf(lookout.selection().inlets(), own.seen().heard(), known)) {
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
                : book.alarms.open(lookout.name(), key).orElse(null);
        if (alarm == null) {
            return;
        }
        if (!raised) {
            book.alarms.clear(alarm, made.at(), (Double) made.data().get("extreme"), instant(made, "extremeAt"));
        }
        if (alarm.told()) {
            Map<String, Object> data = AlarmWords.data(alarm, made.data());
            UUID cause = raised ? alarm.cause() : null;
            owed.addAll(book.messages.keep(
                    List.of(new OwnMessages.Own(id, data, of.device(), of.simulated(), cause)),
                    setup,
                    store.clock().instant()));
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
                !book.alarms.isShelved(lookout.name(), key),
                null,
                null,
                null);
        book.alarms.raise(alarm);
        return alarm;
    }

    private static Instant instant(Step.Made made, String name) {
        Object text = made.data().get(name);
        return text == null ? null : Instant.parse(text.toString());
    }

    /** What was raised while it was shelved, and is shelved no longer, is told of now. */
    void tellUntold() {
        Instant now = store.clock().instant();
        for (Alarm alarm : book.alarms.untold()) {
            Map<String, Object> made = new LinkedHashMap<>();
            made.put(Watch.STATE, Watch.RAISED);
            made.put("text", alarm.text());
            made.put("since", alarm.since().toString());
            made.put("at", now.toString());
            owed.addAll(book.messages.keep(
                    List.of(new OwnMessages.Own(
                            MessageId.derived(now, List.of(alarm.id().toString(), "unshelved")),
                            AlarmWords.data(alarm, made),
                            alarm.device(),
                            alarm.simulated(),
                            alarm.cause())),
                    setup,
                    now));
        }
    }

    /** A lookout is no longer there. */
    void abandon(String name) {
        book.alarms.abandon(name);
    }
}
