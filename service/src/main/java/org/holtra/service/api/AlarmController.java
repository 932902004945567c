package org.holtra.service.api;

import io.swagger.v3.oas.annotations.Parameter;
import java.security.Principal;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Set;
import org.holtra.core.text.DurationText;
import org.holtra.service.lookouts.Alarm;
import org.holtra.service.lookouts.Alarms;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** What lookouts raised, and what people do about it. */
@RestController
@RequestMapping("/api/v1/alarms")
class AlarmController {

    record Whole(Alarm alarm, List<Alarm.Act> acts) {}

    /** @param text what a person says of it, or null */
    record Saying(String text) {}

    /** @param next to ask for what comes after, as {@code after}; null if these are the last */
    record AlarmPage(List<Alarm> alarms, String next) {}

    /** @param span how long, such as 2h */
    record Shelving(String span, String text) {}

    private static final Set<String> STATES = Set.of("open", "acknowledged", "shelved", "cleared");
    private static final int LONGEST_COMMENT = 4_000;
    private static final Duration LONGEST_SHELF = Duration.ofDays(30);

    private final Alarms alarms;
    private final InstantSource clock;

    AlarmController(Alarms alarms, InstantSource clock) {
        this.alarms = alarms;
        this.clock = clock;
    }

    /** Those that are raised first, then those that were cleared, the latest first. */
    @GetMapping
    AlarmPage list(
            @RequestParam(required = false) String lookout,
            @RequestParam(required = false) String device,
            @RequestParam(required = false) String state,
            @RequestParam(required = false) Instant from,
            @Parameter(description = "the `next` of the page before") @RequestParam(required = false) String after,
            @RequestParam(defaultValue = "200") int limit) {
        if (state != null && !STATES.contains(state)) {
            throw Problem.badRequest(
                    "state", "An alarm is open, acknowledged, shelved or cleared, not `" + state + "`.");
        }
        Alarms.Query query = new Alarms.Query(lookout, device, state, from, Paging.checked(limit));
        List<Alarm> found = alarms.list(query, position(after));
        return new AlarmPage(
                found,
                Paging.next(found, limit, last -> Alarms.Position.of(last).toString()));
    }

    private static Alarms.Position position(String after) {
        return after == null ? null : Alarms.Position.parse(after).orElseThrow(() -> Paging.malformed(after));
    }

    /** An alarm with its history. */
    @GetMapping("/{number}")
    Whole find(@PathVariable long number) {
        return whole(there(number));
    }

    /** Acknowledges an alarm. */
    @PostMapping("/{number}/acknowledge")
    Whole acknowledge(@PathVariable long number, @RequestBody(required = false) Saying saying, Principal person) {
        alarms.acknowledge(there(number), person.getName(), text(saying));
        return find(number);
    }

    /** Adds a comment to an alarm. */
    @PostMapping("/{number}/comment")
    Whole comment(@PathVariable long number, @RequestBody Saying saying, Principal person) {
        if (text(saying) == null) {
            throw Problem.badRequest("text", "Say what the comment is.");
        }
        alarms.comment(there(number), person.getName(), text(saying));
        return find(number);
    }

    /** For a time its lookout tells nobody of what it finds here; what is still raised then is told of. */
    @PostMapping("/{number}/shelve")
    Whole shelve(@PathVariable long number, @RequestBody Shelving shelving, Principal person) {
        String span = shelving.span() == null ? "" : shelving.span();
        if (!span.matches("[1-9][0-9]{0,5}(s|m|h|d)")
                || DurationText.parse(span).compareTo(LONGEST_SHELF) > 0) {
            throw Problem.badRequest("span", "Say for how long, such as 2h; at most 30d.");
        }
        alarms.shelve(
                there(number),
                person.getName(),
                clock.instant().plus(DurationText.parse(span)),
                Problem.bounded("text", shelving.text(), LONGEST_COMMENT));
        return find(number);
    }

    /** Ends the shelving of an alarm; if it is still raised, that is told now. */
    @PostMapping("/{number}/unshelve")
    Whole unshelve(@PathVariable long number, Principal person) {
        alarms.unshelve(there(number), person.getName());
        return find(number);
    }

    private Alarm there(long number) {
        return alarms.find(number).orElseThrow(() -> Problem.notFound("alarm", Long.toString(number)));
    }

    private Whole whole(Alarm alarm) {
        return new Whole(alarm, alarms.acts(alarm));
    }

    private static String text(Saying saying) {
        Problem.bounded("text", saying == null ? null : saying.text(), LONGEST_COMMENT);
        return saying == null || saying.text() == null || saying.text().isBlank()
                ? null
                : saying.text().strip();
    }
}
