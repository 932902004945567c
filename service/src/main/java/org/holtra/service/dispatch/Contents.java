package org.holtra.service.dispatch;

import java.util.Optional;
import org.holtra.core.message.MessageId;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.core.shape.Content;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.entry.DeadContent;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** The content that a dead letter would go with, and content that a person wrote for one. */
@Component
public class Contents {

    private static final Logger log = LoggerFactory.getLogger(Contents.class);

    private final Setups setups;
    private final Journal journal;
    private final Readings readings;
    private final Introductions introductions;

    Contents(Setups setups, Journal journal, Readings readings, Introductions introductions) {
        this.introductions = introductions;
        this.setups = setups;
        this.journal = journal;
        this.readings = readings;
    }

    /** Empty if its lane cannot shape it. */
    public Optional<Content> of(DeadContent dead) {
        if (dead.frozen() != null) {
            return Optional.of(FrozenContent.thaw(dead.frozen()));
        }
        Setup setup = setups.current();
        Lane lane = setup.lanes().get(dead.lane());
        StoredMessage stored = journal.find(new MessageId(dead.message())).orElse(null);
        if (lane == null || stored == null) {
            return Optional.empty();
        }
        try {
            return Optional.of(
                    lane.shape().fill(introductions.seen(readings.scope(stored, setup, dead.point()), lane.outlet())));
        } catch (ShapeFailure | UnreadableContent e) {
            log.debug("Dead letter {} cannot be shaped: {}", dead.delivery(), e.getMessage());
            return Optional.empty();
        }
    }

    /** As the journal keeps it, to be sent byte for byte. */
    public static byte[] written(Content content) {
        return FrozenContent.freeze(content, null);
    }
}
