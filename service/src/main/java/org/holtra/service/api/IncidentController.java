package org.holtra.service.api;

import io.swagger.v3.oas.annotations.Parameter;
import java.security.Principal;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.incidents.Acts;
import org.holtra.service.incidents.Incident;
import org.holtra.service.incidents.IncidentReport;
import org.holtra.service.incidents.Incidents;
import org.holtra.service.setups.Setups;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Spans of time on the history of an outlet or a device: what is wrong in them, and mending it. */
@RestController
@RequestMapping("/api/v1/incidents")
class IncidentController {

    /** @param next to ask for older ones, as {@code after}; null if there are none */
    record IncidentPage(List<IncidentView> incidents, String next) {}

    /** @param eachMillis how long a stretch is */
    record History(long eachMillis, List<Incidents.Stretch> stretches) {}

    private static final int STRETCHES = 120;
    private static final Duration LEAST = Duration.ofMinutes(1);

    private final Incidents incidents;
    private final IncidentViews views;
    private final Setups setups;
    private final DeviceRegistry devices;
    private final InstantSource clock;

    IncidentController(
            Incidents incidents, IncidentViews views, Setups setups, DeviceRegistry devices, InstantSource clock) {
        this.incidents = incidents;
        this.views = views;
        this.setups = setups;
        this.devices = devices;
        this.clock = clock;
    }

    /** Incidents, the newest first. */
    @GetMapping
    IncidentPage list(
            @Parameter(description = "the `next` of the page before, which is a number") @RequestParam(required = false)
                    String after,
            @RequestParam(defaultValue = "200") int limit) {
        List<Incident> found = incidents.list(Paging.number(after), Paging.checked(limit));
        return new IncidentPage(
                found.stream().map(views::of).toList(),
                Paging.next(found, limit, last -> Long.toString(last.number())));
    }

    /**
     * What went well and what did not, by which to find the span to mark: an outlet's attempts, or a device's messages. In
     * stretches of which there are at most 120, and at least a minute long; empty ones are left out.
     */
    @GetMapping("/history")
    History history(
            @RequestParam(required = false) String outlet,
            @RequestParam(required = false) String device,
            @RequestParam Instant from,
            @RequestParam Instant to) {
        about(outlet, device);
        if (!from.isBefore(to)) {
            throw Problem.badRequest("to", "The span ends before it begins.");
        }
        Duration each = Duration.between(from, to).dividedBy(STRETCHES);
        Duration least = each.compareTo(LEAST) < 0 ? LEAST : each;
        return new History(least.toMillis(), incidents.history(outlet, device, from, to, least));
    }

    /** Marks one and begins to look into it. */
    @PostMapping
    @ResponseStatus(HttpStatus.CREATED)
    IncidentView mark(@RequestBody Incidents.Mark mark, Principal principal) {
        return views.of(incidents.mark(checked(mark), principal.getName()));
    }

    /** An incident with what was found in it and how its mending stands. */
    @GetMapping("/{number}")
    IncidentView find(@PathVariable long number) {
        return views.of(there(number));
    }

    /** Looks into one anew. */
    @PostMapping("/{number}/look")
    @ResponseStatus(HttpStatus.ACCEPTED)
    IncidentView look(@PathVariable long number, Principal principal) {
        Incident incident = there(number);
        if (views.runs(incident)) {
            throw new Problem(
                    HttpStatus.CONFLICT,
                    "It is being looked into",
                    "Incident " + number + " is being looked into or mended; that ends with a look.",
                    Map.of());
        }
        return views.of(incidents.look(incident, principal.getName()));
    }

    /** Begins to do what is chosen of what is proposed. An incident is mended once. */
    @PostMapping("/{number}/mend")
    @ResponseStatus(HttpStatus.ACCEPTED)
    IncidentView mend(@PathVariable long number, @RequestBody Acts acts, Principal principal) {
        Incident incident = there(number);
        if (!acts.areAny()) {
            throw Problem.badRequest("acts", "Choose what is to be done: read, retry, take, or wrong revisions.");
        }
        if (acts.wrong().contains(setups.current().revision())) {
            throw Problem.badRequest(
                    "wrong",
                    "Revision " + setups.current().revision()
                            + " is active: what it made would be made the same. Mend the setup first.");
        }
        if (views.runs(incident)) {
            throw new Problem(
                    HttpStatus.CONFLICT,
                    "It is being looked into",
                    "Wait until the look at incident " + number + " has ended.",
                    Map.of());
        }
        return views.of(incidents
                .mend(incident, acts, principal.getName())
                .orElseThrow(() -> new Problem(
                        HttpStatus.CONFLICT,
                        "It was mended already",
                        "Incident " + number + " was mended; for what is left, mark another.",
                        Map.of())));
    }

    /** What happened, what was done and what became of it, as a page to be handed on. */
    @GetMapping(value = "/{number}/report", produces = MediaType.TEXT_HTML_VALUE)
    ResponseEntity<String> report(@PathVariable long number) {
        return ResponseEntity.ok()
                .header("Content-Security-Policy", IncidentReport.POLICY)
                .body(IncidentReport.of(there(number), clock.instant()));
    }

    /** Forgets one about which nothing was done. */
    @DeleteMapping("/{number}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void forget(@PathVariable long number) {
        there(number);
        if (!incidents.forget(number)) {
            throw new Problem(
                    HttpStatus.CONFLICT,
                    "Something was done about it",
                    "Incident " + number + " was mended; what was done stays on record.",
                    Map.of());
        }
    }

    private Incident there(long number) {
        return incidents.find(number).orElseThrow(() -> Problem.notFound("incident", Long.toString(number)));
    }

    private void about(String outlet, String device) {
        if ((outlet == null) == (device == null)) {
            throw Problem.badRequest("outlet", "Say which outlet or which device it is about, and only one of both.");
        }
        if (outlet != null && !setups.current().outlets().containsKey(outlet)) {
            throw Problem.badRequest("outlet", "There is no outlet `" + outlet + "`.");
        }
        if (device != null && devices.find(device).isEmpty()) {
            throw Problem.badRequest("device", "There is no device `" + device + "`.");
        }
    }

    private Incidents.Mark checked(Incidents.Mark mark) {
        Problem.bounded("title", mark.title(), 200);
        about(mark.outlet(), mark.device());
        if (mark.since() == null || mark.until() == null) {
            throw Problem.badRequest(
                    mark.since() == null ? "since" : "until", "An instant such as 2026-04-01T00:00:00Z.");
        }
        if (!mark.since().isBefore(mark.until())) {
            throw Problem.badRequest("until", "The span ends before it begins.");
        }
        if (mark.since().isAfter(clock.instant())) {
            throw Problem.badRequest("since", "The span begins in the future.");
        }
        String title = mark.title() == null || mark.title().isBlank()
                ? "Trouble of " + (mark.outlet() == null ? "device " + mark.device() : "outlet " + mark.outlet())
                : mark.title().strip();
        // What comes later is not part of it.
        Instant now = clock.instant();
        Instant until = mark.until().isAfter(now) ? now : mark.until();
        return new Incidents.Mark(title, mark.outlet(), mark.device(), mark.since(), until);
    }
}
