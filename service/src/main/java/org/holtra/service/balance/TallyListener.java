package org.holtra.service.balance;

import org.holtra.service.journal.JournalListener;
import org.holtra.service.journal.Settlement;
import org.holtra.service.journal.entry.StoredMessage;
import org.springframework.stereotype.Component;

/** Counts what lanes take and what becomes of it, for the plots of recent traffic. */
@Component
class TallyListener implements JournalListener {

    private final Tally tally;

    TallyListener(Tally tally) {
        this.tally = tally;
    }

    @Override
    public void kept(StoredMessage message) {
        message.lanes()
                .forEach(lane -> tally.add(Tally.What.TAKEN, lane, message.id().received()));
    }

    @Override
    public void settled(Settlement settlement) {
        if (settlement.fate() == Settlement.Kind.WAITING && settlement.attempt() == null) {
            return;
        }
        Tally.What what = switch (settlement.fate()) {
            case DELIVERED -> Tally.What.DELIVERED;
            case DEAD -> Tally.What.DEAD;
            case WAITING, TRIED -> Tally.What.FAILED;
        };
        tally.add(what, settlement.owed().lane(), settlement.at());
        if (what == Tally.What.DELIVERED) {
            tally.add(Tally.What.SENT, settlement.owed().outlet(), settlement.at());
            tally.add(
                    Tally.What.BYTES,
                    settlement.owed().outlet(),
                    settlement.at(),
                    settlement.attempt().requestBody().length);
        }
    }
}
