package org.holtra.service.reading;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.holtra.core.expression.Scope;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Setup;
import org.holtra.service.history.MessagePage;
import org.holtra.service.history.MessageQuery;
import org.holtra.service.history.Records;
import org.holtra.service.journal.entry.StoredMessage;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** Messages that came in a stretch of time, to try something on them. */
@Component
public class Past {

    /** More messages of an inlet than this are not gone through; the latest count. */
    public static final int MOST = 20_000;

    /** Of all inlets together; each has its share. */
    private static final long BYTES = 64 << 20;

    private static final int PAGE = 1_000;

    /** @param device whose messages are wanted; null for all */
    public record Wanted(Set<String> inlets, String device, Instant from, Instant to) {}

    /**
     * @param messages in the order they came
     * @param cut whether there are more than are gone through
     */
    public record Messages(List<StoredMessage> messages, boolean cut) {}

    private static final Logger log = LoggerFactory.getLogger(Past.class);

    private final Records records;
    private final Readings readings;

    Past(Records records, Readings readings) {
        this.records = records;
        this.readings = readings.forHistory();
    }

    /** What expressions see of one of them today; empty if it cannot be read any more. */
    public Optional<Scope> scope(StoredMessage message, Setup setup) {
        try {
            return Optional.of(readings.scope(message, setup, null));
        } catch (UnreadableContent e) {
            log.debug("Message {} cannot be read today: {}", message.id(), e.getMessage());
            return Optional.empty();
        }
    }

    public Messages of(Wanted wanted) {
        List<StoredMessage> stored = new ArrayList<>();
        boolean cut = false;
        for (String inlet : wanted.inlets) {
            cut |= load(inlet, wanted, stored);
        }
        stored.sort(Comparator.comparing(StoredMessage::id));
        return new Messages(stored, cut);
    }

    /** True if there are more than are gone through. */
    private boolean load(String inlet, Wanted wanted, List<StoredMessage> stored) {
        UUID last = null;
        int loaded = 0;
        long bytes = 0;
        while (loaded < MOST && bytes < BYTES / wanted.inlets.size()) {
            MessagePage page = records.messages(new MessageQuery(
                    wanted.from, wanted.to, last, inlet, wanted.device, null, null, null, null, null, PAGE));
            for (StoredMessage one : page.messages()) {
                loaded++;
                bytes += one.arrival().body().length;
                if (one.readable()) {
                    stored.add(one);
                }
            }
            if (!page.more()) {
                return false;
            }
            last = page.last().value();
        }
        return true;
    }
}
