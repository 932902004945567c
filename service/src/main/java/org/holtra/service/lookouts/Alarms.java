package org.holtra.service.lookouts;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.holtra.service.settings.HoltraSettings;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/** The alarms there are and were, and what people do about them. */
@Component
public class Alarms {

    /**
     * Which alarms to list. What is null does not matter.
     *
     * @param state {@code open}, {@code acknowledged}, {@code shelved} or {@code cleared}
     * @param from none that were cleared before
     */
    public record Query(String lookout, String device, String state, Instant from, int limit) {}

    /** Where an alarm stands in the list; its text is for the next request. */
    public record Position(boolean cleared, long number) {

        private static final Pattern TEXT = Pattern.compile("(raised|cleared)-(\\d{1,18})");

        public static Position of(Alarm alarm) {
            return new Position(alarm.cleared() != null, alarm.number());
        }

        /** Empty if it is no such text. */
        public static Optional<Position> parse(String text) {
            Matcher matcher = TEXT.matcher(text);
            return matcher.matches()
                    ? Optional.of(new Position(matcher.group(1).equals("cleared"), Long.parseLong(matcher.group(2))))
                    : Optional.empty();
        }

        @Override
        public String toString() {
            return (cleared ? "cleared-" : "raised-") + number;
        }
    }

    /**
     * How a lookout has done.
     *
     * @param open how many alarms are raised now
     * @param raised how many were of late
     * @param last when the last was; null if none ever was
     */
    public record Record(String lookout, int open, int raised, Instant last) {}

    /** @param keys that a lookout watches */
    public record Watched(String lane, int keys) {}

    private final AlarmMapper mapper;
    private final TransactionTemplate transaction;
    private final InstantSource clock;
    private final HoltraSettings settings;

    Alarms(AlarmMapper mapper, TransactionTemplate transaction, InstantSource clock, HoltraSettings settings) {
        this.settings = settings;
        this.mapper = mapper;
        this.transaction = transaction;
        this.clock = clock;
    }

    /**
     * Those that are raised first, then those that were cleared, each the latest first.
     *
     * @param after null to begin
     */
    public List<Alarm> list(Query query, Position after) {
        return mapper.list(query, after, clock.instant());
    }

    public Optional<Alarm> find(long number) {
        return mapper.find(number, clock.instant());
    }

    /** How many are raised, and neither acknowledged nor shelved. */
    public long open() {
        return mapper.countOpen(clock.instant());
    }

    /** Those that a message caused, or that it tells of. */
    public List<Alarm> ofMessage(UUID message) {
        return mapper.ofMessage(message, clock.instant());
    }

    public List<Alarm.Act> acts(Alarm alarm) {
        return mapper.acts(alarm.id());
    }

    /** How lookouts have done since a time. */
    public List<Record> records(List<String> lookouts, Instant since) {
        return mapper.records(lookouts.toArray(String[]::new), since);
    }

    /** How many keys are watched, by the names under which they are remembered. */
    public List<Watched> watched(List<String> names) {
        return mapper.watched(names.toArray(String[]::new));
    }

    /** Somebody takes care of it. */
    public void acknowledge(Alarm alarm, String by, String text) {
        Instant now = clock.instant();
        transaction.executeWithoutResult(status -> {
            if (mapper.acknowledge(alarm.id(), by, now) > 0 || text != null) {
                mapper.note(alarm.id(), new Alarm.Act(now, by, "acknowledged", text, null));
            }
        });
    }

    public void comment(Alarm alarm, String by, String text) {
        mapper.note(alarm.id(), new Alarm.Act(clock.instant(), by, "commented", text, null));
    }

    /** Until then its lookout raises what it finds for this key, and tells nobody. */
    public void shelve(Alarm alarm, String by, Instant until, String text) {
        transaction.executeWithoutResult(status -> {
            mapper.shelve(alarm.lookout(), alarm.key(), until, by);
            mapper.note(alarm.id(), new Alarm.Act(clock.instant(), by, "shelved", text, until));
        });
    }

    public void unshelve(Alarm alarm, String by) {
        transaction.executeWithoutResult(status -> {
            if (mapper.unshelve(alarm.lookout(), alarm.key()) > 0) {
                mapper.note(alarm.id(), new Alarm.Act(clock.instant(), by, "unshelved", null, null));
            }
        });
    }

    /** The one that is raised for a key. */
    public Optional<Alarm> open(String lookout, String key) {
        return mapper.open(lookout, key, clock.instant());
    }

    public boolean isShelved(String lookout, String key) {
        return mapper.shelved(lookout, key, clock.instant()).isPresent();
    }

    /** Within the caller's transaction. */
    public void raise(Alarm alarm) {
        mapper.raise(alarm);
    }

    /** Within the caller's transaction. */
    public void clear(Alarm alarm, Instant at, Double extreme, Instant extremeAt) {
        mapper.clear(alarm.id(), at, extreme, extremeAt);
    }

    /** The one that is raised for a key has gone further. Within the caller's transaction. */
    public void further(String lookout, String key, Double extreme, Instant at) {
        mapper.further(lookout, key, extreme, at);
    }

    /** A lookout is no longer there; its alarms are over. */
    public void abandon(String lookout) {
        mapper.abandon(lookout, clock.instant());
    }

    /** Raised while they were shelved, and shelved no longer: they are to be told of now. Within the caller's transaction. */
    public List<Alarm> untold() {
        List<Alarm> untold = mapper.untold(clock.instant());
        untold.forEach(alarm -> mapper.told(alarm.id()));
        return untold;
    }

    /** Forgets those that were cleared longer ago than messages are kept. */
    public void forget() {
        if (settings.keepMessagesDays() > 0) {
            mapper.forget(clock.instant().minus(Duration.ofDays(settings.keepMessagesDays())));
        }
    }
}
