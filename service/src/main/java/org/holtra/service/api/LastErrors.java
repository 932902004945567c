package org.holtra.service.api;

import java.time.Instant;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.holtra.service.journal.JournalListener;
import org.holtra.service.journal.Settlement;
import org.springframework.stereotype.Component;

/** What failed last on each lane since the service started. */
@Component
class LastErrors implements JournalListener {

    /** @param message whose delivery it was */
    record LastError(Instant at, String reason, String message) {}

    private final Map<String, LastError> byLane = new ConcurrentHashMap<>();

    @Override
    public void settled(Settlement settlement) {
        String reason = settlement.owed().reason();
        boolean failed = settlement.fate() == Settlement.Kind.DEAD
                || settlement.fate() == Settlement.Kind.WAITING && settlement.attempt() != null;
        if (failed && reason != null) {
            byLane.put(
                    settlement.owed().lane(),
                    new LastError(
                            settlement.at(), reason, settlement.owed().message().toString()));
        }
    }

    /** Null if nothing failed. */
    LastError of(String lane) {
        return byLane.get(lane);
    }
}
