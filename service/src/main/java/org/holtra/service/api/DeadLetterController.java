package org.holtra.service.api;

import io.swagger.v3.oas.annotations.Parameter;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.holtra.core.shape.Content;
import org.holtra.core.shape.Envelope;
import org.holtra.service.dispatch.Contents;
import org.holtra.service.history.DeadLetter;
import org.holtra.service.history.DeadQuery;
import org.holtra.service.history.Records;
import org.holtra.service.jobs.DeadTerms;
import org.holtra.service.jobs.Job;
import org.holtra.service.jobs.Jobs;
import org.holtra.service.journal.DeadLetters;
import org.holtra.service.journal.LaneDebts;
import org.holtra.service.journal.entry.DeadChoice;
import org.holtra.service.journal.entry.DeadContent;
import org.holtra.service.journal.entry.DeadGroup;
import org.holtra.service.setups.Setups;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

@RestController
@RequestMapping("/api/v1/dead")
class DeadLetterController {

    private static final Duration TO_TAKE_BACK = Duration.ofMinutes(10);

    /** An answer waits so long for what it began, which mostly is enough. */
    private static final Duration PATIENCE = Duration.ofSeconds(2);

    /**
     * @param total of all dead letters, whatever was asked for
     * @param next to ask for older ones, as {@code after}; null if there are none
     */
    record Dead(long total, List<DeadGroup> groups, List<DeadLetter> letters, String next) {}

    /** @param groups those that are meant, by lane, outlet and cause */
    record Preview(long count, List<DeadGroup> groups) {}

    /** @param count how many it has been done to so far */
    record Done(long count, JobView job) {}

    /**
     * What goes to the destination.
     *
     * @param texts beside the body, by the names that the outlet's kind has for them
     * @param named values by name beside the body
     * @param body as text
     */
    record EditedContent(
            Map<String, String> texts, Map<String, List<NamedValue>> named, String contentType, String body) {

        static EditedContent of(Content content) {
            Map<String, List<NamedValue>> named = new LinkedHashMap<>();
            content.envelope()
                    .named()
                    .forEach((name, values) -> named.put(
                            name,
                            values.stream()
                                    .map(one -> new NamedValue(one.getKey(), one.getValue()))
                                    .toList()));
            return new EditedContent(
                    content.envelope().texts(),
                    named,
                    content.contentType(),
                    new String(content.body(), StandardCharsets.UTF_8));
        }

        Content content() {
            Map<String, List<Map.Entry<String, String>>> all = new LinkedHashMap<>();
            if (named != null) {
                named.forEach((name, values) -> all.put(
                        name,
                        values.stream()
                                .map(one -> Map.entry(one.name, one.value))
                                .toList()));
            }
            return new Content(
                    new Envelope(texts == null ? Map.of() : texts, all),
                    contentType,
                    (body == null ? "" : body).getBytes(StandardCharsets.UTF_8));
        }
    }

    record NamedValue(String name, String value) {}

    /** Where dead letters are, and what can be done to them. */
    @Component
    record Hands(Records records, LaneDebts debts, DeadLetters dead, Jobs jobs, Contents contents) {}

    private final Hands hands;
    private final Setups setups;
    private final InstantSource clock;

    DeadLetterController(Hands hands, Setups setups, InstantSource clock) {
        this.hands = hands;
        this.setups = setups;
        this.clock = clock;
    }

    /** Dead letters, the newest first, and how many there are by lane and cause. */
    @GetMapping
    Dead list(
            @RequestParam(required = false) String lane,
            @RequestParam(required = false) String outlet,
            @RequestParam(required = false) String cause,
            @Parameter(description = "the `next` of the page before") @RequestParam(required = false) String after,
            @RequestParam(defaultValue = "200") int limit) {
        Paging.After start = Paging.After.of(after);
        DeadQuery query = new DeadQuery(lane, outlet, cause, start.at(), start.id(), Paging.checked(limit));
        List<DeadLetter> letters = hands.records.dead(query);
        List<DeadGroup> groups = hands.debts.deadGroups();
        return new Dead(
                groups.stream().mapToLong(DeadGroup::count).sum(),
                groups,
                letters,
                Paging.next(letters, limit, last -> new Paging.After(last.died(), last.delivery()).toString()));
    }

    /** Counts those that are meant; does nothing to them. */
    @PostMapping("/preview")
    Preview preview(@RequestBody DeadChoice choice) {
        List<DeadGroup> groups = hands.dead.chosen(meant(choice));
        return new Preview(groups.stream().mapToLong(DeadGroup::count).sum(), groups);
    }

    /** Tries dead letters again, with the newest shape and facts, at their lanes' outlets or at another. */
    @PostMapping("/retry")
    Done retry(@RequestBody DeadChoice choice, @RequestParam(required = false) String to, Principal principal) {
        if (to != null && !setups.current().outlets().containsKey(to)) {
            throw Problem.badRequest("to", "There is no outlet `" + to + "`.");
        }
        return begin("retry", choice, to, principal, null);
    }

    /** Drops dead letters; for ten minutes that can be taken back. Their messages stay. */
    @PostMapping("/drop")
    Done drop(@RequestBody DeadChoice choice, Principal principal) {
        return begin("drop", choice, null, principal, clock.instant().plus(TO_TAKE_BACK));
    }

    private Done begin(String what, DeadChoice choice, String to, Principal principal, Instant undoUntil) {
        long expected = preview(choice).count();
        Job begun = hands.jobs.begin(what, new DeadTerms(choice, to), principal.getName(), expected, undoUntil);
        Job now = hands.jobs.await(begun.id(), PATIENCE);
        return new Done(now.done(), JobView.of(now));
    }

    /** What a dead letter would go with, to be edited. */
    @GetMapping("/{delivery}/content")
    EditedContent content(@PathVariable UUID delivery) {
        return EditedContent.of(hands.contents
                .of(there(delivery))
                .orElseThrow(() -> new Problem(
                        HttpStatus.CONFLICT,
                        "It has no content",
                        "Its lane cannot shape it; mend the lane's shape and retry it.",
                        Map.of())));
    }

    /** Tries a dead letter again with content that a person wrote. */
    @PostMapping("/{delivery}/edit-retry")
    Done edit(@PathVariable UUID delivery, @RequestBody EditedContent content, Principal principal) {
        there(delivery);
        hands.dead.edit(delivery, Contents.written(content.content()));
        return begin("retry", new DeadChoice(List.of(delivery), null, null, null, null, null), null, principal, null);
    }

    private DeadContent there(UUID delivery) {
        return hands.dead.find(delivery).orElseThrow(() -> Problem.notFound("dead letter", delivery.toString()));
    }

    private static DeadChoice meant(DeadChoice choice) {
        if (!choice.isMeant()) {
            throw Problem.badRequest(
                    "deliveries",
                    "Say which: deliveries, or a lane, an outlet, a cause or a device; or all, to mean every one.");
        }
        List<UUID> deliveries =
                choice.deliveries() == null || choice.deliveries().isEmpty() ? null : choice.deliveries();
        return new DeadChoice(
                deliveries, choice.lane(), choice.outlet(), choice.cause(), choice.device(), choice.all());
    }
}
