package org.holtra.service.intake;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.MessageIds;
import org.holtra.core.message.Origin;
import org.holtra.core.picking.Picker;
import org.holtra.core.reading.Opened;
import org.holtra.core.reading.Reader;
import org.holtra.core.reading.UnreadableContent;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.journal.Delivery;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.JournalUnavailable;
import org.holtra.service.journal.Tally;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/** Takes an arrival of whatever kind: reads it, asks the lanes, and has it kept before anybody is told so. */
@Component
public class Intake {

    /** How an arrival becomes a message. */
    @Component
    record Steps(Readings readings, Copies copies, Sorter sorter, Learning learning) {}

    private final Setups setups;
    private final Steps steps;
    private final Journal journal;
    private final Dispatcher dispatcher;
    private final Tally tally;
    private final MessageIds ids;

    Intake(Setups setups, Steps steps, Journal journal, Dispatcher dispatcher, Tally tally, MessageIds ids) {
        this.setups = setups;
        this.steps = steps;
        this.journal = journal;
        this.dispatcher = dispatcher;
        this.tally = tally;
        this.ids = ids;
    }

    /** Before the first arrival, and after the setup is there. */
    public void load() {
        steps.copies.load(setups.current());
        steps.learning.load();
    }

    /** Forgets what is too old to matter. */
    public void forget() {
        steps.copies.forget(setups.current());
    }

    public MessageId nextId() {
        return ids.next();
    }

    /**
     * Completed once the message is durable; its deliveries are on their way then.
     *
     * @throws JournalUnavailable if nothing can be kept now, directly or through the future
     */
    public CompletableFuture<MessageId> take(Arrival arrival, Inlet inlet) {
        Setup setup = setups.current();
        Opened opened;
        try {
            opened = steps.readings.open(arrival, inlet);
        } catch (UnreadableContent e) {
            boolean simulated = e.simulated() || Reader.simulated(arrival, inlet);
            return keep(
                    steps.sorter.unreadable(arrival, e.getMessage(), new Origin(null, null, simulated, null), setup));
        }
        String same = opened.origin().device() == null ? null : opened.copyKey();
        return same == null ? takeFirst(opened, null, setup) : takeUnlessCopy(opened, same, setup);
    }

    /** The sender has been told that the message is kept. */
    public void acknowledged(MessageId id, String inlet) {
        tally.add(Tally.What.ACKNOWLEDGED, inlet, id.received());
    }

    private CompletableFuture<MessageId> takeUnlessCopy(Opened opened, String same, Setup setup) {
        CompletableFuture<MessageId> kept = new CompletableFuture<>();
        Copies.First first = steps.copies.before(opened, same, kept);
        if (first != null) {
            // A copy is none before the first is durable: should that fail, this one takes its place.
            return first.kept()
                    .handle((id, failure) -> failure == null
                            ? keep(steps.sorter.copy(opened, same, first.id(), setup))
                            : takeUnlessCopy(opened, same, setup))
                    .thenCompose(done -> done);
        }
        try {
            takeFirst(opened, same, setup).whenComplete((id, failure) -> {
                if (failure == null) {
                    kept.complete(id);
                } else {
                    kept.completeExceptionally(failure);
                }
            });
        } catch (RuntimeException e) {
            kept.completeExceptionally(e);
            throw e;
        }
        return kept;
    }

    private CompletableFuture<MessageId> takeFirst(Opened opened, String same, Setup setup) {
        try {
            return keep(steps.sorter.sort(opened, same, setup));
        } catch (DataAccessException | TransactionException e) {
            throw new JournalUnavailable("the registry cannot be reached", e);
        }
    }

    private CompletableFuture<MessageId> keep(Picked picked) {
        Learning.Lesson lesson = picked.message() == null ? null : steps.learning.lesson(picked.message());
        List<Delivery.Owed> owed = new ArrayList<>(picked.takes().size());
        Set<UUID> mine = new HashSet<>();
        long bytes = picked.stored().arrival().body().length;
        for (Picker.Take take : picked.takes()) {
            Delivery.Owed one = Owing.first(ids.next().value(), picked.stored(), take);
            owed.add(one);
            if (dispatcher.reserve(one.outlet(), one.lane(), bytes)) {
                mine.add(one.id());
            }
        }
        CompletableFuture<Void> durable;
        try {
            durable = journal.append(new Journal.Entry(picked.stored(), owed, mine));
        } catch (JournalUnavailable e) {
            forget(owed, mine, bytes);
            throw e;
        }
        return durable.handle((nothing, failure) -> {
            if (failure != null) {
                forget(owed, mine, bytes);
                throw new JournalUnavailable("the journal cannot be written", failure);
            }
            dispatch(picked, owed, mine);
            if (lesson != null) {
                steps.learning.learn(lesson);
            }
            return picked.stored().id();
        });
    }

    private void dispatch(Picked picked, List<Delivery.Owed> owed, Set<UUID> mine) {
        for (Delivery.Owed one : owed) {
            if (mine.contains(one.id())) {
                dispatcher.offer(new Delivery(one, picked.stored()), picked.message());
            } else {
                dispatcher.wake(one.outlet());
            }
        }
    }

    private void forget(List<Delivery.Owed> owed, Set<UUID> mine, long bytes) {
        owed.stream()
                .filter(one -> mine.contains(one.id()))
                .forEach(one -> dispatcher.unreserve(one.outlet(), one.lane(), bytes));
    }
}
