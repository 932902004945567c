package org.holtra.service.api;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.holtra.service.balance.Balance;

/**
 * The answer to "is everything that came in going out, and if not, where does it stop?"
 *
 * @param countedAt when what lanes owe was counted: some seconds ago where that takes long
 * @param balance of the last hour
 * @param alarms how many are raised, and neither acknowledged nor shelved
 * @param lanes the most troubled first
 */
record Overview(
        Instant at,
        Instant countedAt,
        int setupRevision,
        Balance balance,
        long dead,
        long alarms,
        List<LaneRow> lanes) {

    /**
     * A lane at a glance.
     *
     * @param state {@code open} or {@code closed}
     * @param units of the fields its condition reads, where all models agree on one, as UCUM codes
     * @param trouble {@code stopped}: its outlet takes nothing; {@code late}: what it owes is older than a minute;
     *     {@code dead}: it has dead letters; {@code waiting}: it owes something; {@code flowing}; {@code closed}: it or its outlet is closed; {@code quiet}: nothing
     *     came in the last hour
     * @param owes deliveries without a fate yet
     * @param oldest when the oldest of them arrived, or null
     * @param reason why it stops or waits, or null
     * @param since when the outlet came into its state; null while it flows
     * @param nextTry when something will be tried next, or null
     * @param advice what a person can do about it, or null
     * @param lastError what failed last on it since the service started, or null
     * @param traffic of the last hour, a count a minute, the oldest first
     */
    record LaneRow(
            String lane,
            List<String> inlets,
            String outlet,
            String state,
            String pick,
            Map<String, String> units,
            String trouble,
            String outletState,
            long owes,
            long dead,
            Instant oldest,
            String reason,
            Instant since,
            Instant nextTry,
            String advice,
            LastErrors.LastError lastError,
            Traffic traffic) {}

    record Traffic(long[] taken, long[] delivered, long[] failed) {}
}
