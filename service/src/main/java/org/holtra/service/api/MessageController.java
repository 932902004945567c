package org.holtra.service.api;

import io.swagger.v3.oas.annotations.Parameter;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.holtra.core.message.MessageId;
import org.holtra.service.cluster.Node;
import org.holtra.service.history.MessagePage;
import org.holtra.service.history.MessageQuery;
import org.holtra.service.history.Records;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.spool.Spool;
import org.springframework.dao.DataAccessException;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

@RestController
@RequestMapping("/api/v1/messages")
class MessageController {

    private static final Duration USUAL_SPAN = Duration.ofDays(7);
    private static final List<String> STATES = List.of(
            "unreadable", "unclaimed", "deferred", "duplicate", "whole", "unrouted", "waiting", "dead", "delivered");

    /** @param next to ask for older ones, as {@code after}; null if there are none */
    record Page(List<MessageView> messages, String next) {}

    private final Records records;
    private final Journal journal;
    private final Spool spool;
    private final Node node;
    private final Traces traces;
    private final InstantSource clock;

    /** Where messages are. */
    @Component
    record Places(Records records, Journal journal, Spool spool, Node node) {}

    MessageController(Places places, Traces traces, InstantSource clock) {
        this.records = places.records;
        this.journal = places.journal;
        this.spool = places.spool;
        this.node = places.node;
        this.traces = traces;
        this.clock = clock;
    }

    /** Messages, the newest first. */
    @GetMapping
    Page list(
            @RequestParam(required = false) String inlet,
            @RequestParam(required = false) String device,
            @RequestParam(required = false) String lane,
            @RequestParam(required = false) String type,
            @Parameter(
                            description =
                                    "unreadable, unclaimed, deferred, duplicate, whole, unrouted, waiting, dead or delivered")
                    @RequestParam(required = false)
                    String state,
            @RequestParam(required = false) Boolean simulated,
            @Parameter(
                            description = "text in the content as it came, whatever its case; looked for in the latest"
                                    + " 100,000 messages of the span")
                    @RequestParam(required = false)
                    String contains,
            @RequestParam(required = false) Instant from,
            @RequestParam(required = false) Instant to,
            @Parameter(description = "only those older than the message of this id") @RequestParam(required = false)
                    String after,
            @RequestParam(defaultValue = "100") int limit) {
        if (state != null && !STATES.contains(state)) {
            throw Problem.badRequest(
                    "state", "`" + state + "` is no state; it is one of " + String.join(", ", STATES) + ".");
        }
        if (contains != null && contains.length() < 2) {
            throw Problem.badRequest("contains", "Search for two characters or more.");
        }
        Paging.checked(limit);
        Instant end = to == null ? clock.instant().plusSeconds(60) : to;
        Instant start = from == null ? end.minus(USUAL_SPAN) : from;
        UUID last = after == null ? null : id(after).value();
        MessagePage found = records.messages(
                new MessageQuery(start, end, last, inlet, device, lane, type, state, simulated, contains, limit));
        var states =
                records.states(found.messages().stream().map(StoredMessage::id).toList());
        List<MessageView> views = found.messages().stream()
                .map(message -> MessageView.of(message, states))
                .toList();
        return new Page(views, found.more() ? found.last().toString() : null);
    }

    /** The journey of one message. */
    @GetMapping("/{id}")
    Traces.Trace trace(@PathVariable String id) {
        StoredMessage stored = stored(id);
        return stored.state().equals(StoredMessage.SPOOLED) ? traces.ofSpooled(stored) : traces.of(stored);
    }

    /** The body as it came, byte for byte. */
    @GetMapping(value = "/{id}/body", produces = MediaType.APPLICATION_OCTET_STREAM_VALUE)
    ResponseEntity<byte[]> body(@PathVariable String id) {
        return ResponseEntity.ok()
                .header("Content-Disposition", "attachment; filename=\"" + id(id) + "\"")
                .header("X-Content-Type-Options", "nosniff")
                .body(stored(id).arrival().body());
    }

    private StoredMessage stored(String id) {
        MessageId wanted = id(id);
        try {
            return journal.find(wanted).or(() -> spooled(wanted)).orElseThrow(() -> Problem.notFound("message", id));
        } catch (DataAccessException | TransactionException e) {
            return spooled(wanted).orElseThrow(() -> e); // where it came while the database is away, it is here
        }
    }

    /** What waits for the journal on this node's disk. */
    private Optional<StoredMessage> spooled(MessageId id) {
        return spool.find(id)
                .map(arrival -> StoredMessage.spooled(
                        arrival,
                        "it waits in the spool of node `" + node.name()
                                + "` until the database takes it; what it is is decided then"));
    }

    private static MessageId id(String text) {
        return id("id", text);
    }

    /** @param field that the text stands in */
    static MessageId id(String field, String text) {
        try {
            return MessageId.parse(text);
        } catch (IllegalArgumentException e) {
            throw Problem.badRequest(field, "`" + text + "` is not the id of a message: " + e.getMessage() + ".");
        }
    }
}
