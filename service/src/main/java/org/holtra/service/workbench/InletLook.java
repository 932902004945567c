package org.holtra.service.workbench;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Optional;
import org.holtra.core.message.Arrival;
import org.holtra.core.reading.proposal.ArrivalLook;
import org.holtra.core.reading.proposal.ReadingProposal;
import org.holtra.service.history.MessageQuery;
import org.holtra.service.history.Records;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.entry.StoredMessage;
import org.springframework.stereotype.Component;

/** Proposes how an inlet should read, by the last that came. */
@Component
public class InletLook {

    private static final Duration LOOKED_BACK = Duration.ofDays(30);

    private final Records records;
    private final Journal journal;
    private final InstantSource clock;

    InletLook(Records records, Journal journal, InstantSource clock) {
        this.records = records;
        this.journal = journal;
        this.clock = clock;
    }

    /** @param message that was looked at */
    public record Proposed(String message, ReadingProposal proposal) {}

    /**
     * Empty if nothing came within thirty days.
     *
     * @param isOne whether each arrival is one message, whatever lists are in it
     */
    public Optional<Proposed> propose(String inlet, boolean isOne) {
        Instant now = clock.instant();
        return records
                .messages(MessageQuery.ofInlet(inlet, now.minus(LOOKED_BACK), now.plusSeconds(60), 1))
                .messages()
                .stream()
                .findFirst()
                .map(this::arrival)
                .map(arrival -> new Proposed(arrival.id().toString(), ArrivalLook.at(arrival, isOne)));
    }

    /** As it came: a part of an arrival is looked at with the whole. */
    private Arrival arrival(StoredMessage stored) {
        Arrival arrival = stored.arrival();
        return arrival.isPart()
                ? journal.find(arrival.whole()).map(StoredMessage::arrival).orElse(arrival)
                : arrival;
    }
}
