package org.holtra.service.intake;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.JournalUnavailable;
import org.holtra.service.journal.entry.Cursor;

/**
 * Collects what is to be kept in one transaction, in an order: a later message is never there without the earlier ones. Used
 * by one thread.
 */
final class Together implements Intake.Appending {

    private record Waiting(Journal.Entry entry, CompletableFuture<Journal.Kept> kept) {}

    private final Journal journal;
    private final Cursor cursor;
    private List<Waiting> waiting = new ArrayList<>();
    private boolean moved;
    private boolean done;

    Together(Journal journal) {
        this(journal, null);
    }

    /** @param cursor moves with the first transaction, and what comes in a later one is a duplicate of what is in that; or null */
    Together(Journal journal, Cursor cursor) {
        this.journal = journal;
        this.cursor = cursor;
    }

    /** What comes after the commit, such as a duplicate of what another arrival brought, is kept by itself. */
    @Override
    public synchronized CompletableFuture<Journal.Kept> append(Journal.Entry entry) {
        if (done) {
            return journal.append(entry);
        }
        Waiting one = new Waiting(entry, new CompletableFuture<>());
        waiting.add(one);
        return one.kept;
    }

    private synchronized List<Waiting> take() {
        List<Waiting> taken = waiting;
        waiting = new ArrayList<>();
        done = taken.isEmpty();
        if (cursor != null && !moved && !taken.isEmpty()) {
            Waiting last = taken.removeLast();
            taken.add(new Waiting(last.entry.moving(cursor), last.kept));
            moved = true;
        }
        return taken;
    }

    /** Commits what was collected, and what is collected while that is done, such as duplicates of what is kept now. */
    void commit() {
        for (List<Waiting> taken = take(); !taken.isEmpty(); taken = take()) {
            commit(taken);
        }
    }

    private void commit(List<Waiting> taken) {
        List<CompletableFuture<Journal.Kept>> done;
        try {
            done = journal.appendTogether(taken.stream().map(Waiting::entry).toList());
            CompletableFuture.allOf(done.toArray(CompletableFuture[]::new)).join();
        } catch (JournalUnavailable | CompletionException e) {
            if (taken.size() > 1 && JournalUnavailable.isOfTheMessage(e)) {
                oneByOne(taken);
            } else {
                taken.forEach(one -> one.kept.completeExceptionally(e));
            }
            return;
        }
        for (int i = 0; i < taken.size(); i++) {
            taken.get(i).kept.complete(done.get(i).join());
        }
    }

    /** One of them cannot be stored. The others are, each after the one before it; nothing is kept after what could not be. */
    private void oneByOne(List<Waiting> taken) {
        Throwable stopped = null;
        for (Waiting one : taken) {
            if (stopped != null) {
                one.kept.completeExceptionally(new JournalUnavailable("what came before it is not kept yet", null));
                continue;
            }
            try {
                one.kept.complete(journal.append(one.entry).join());
            } catch (JournalUnavailable | CompletionException e) {
                stopped = JournalUnavailable.isOfTheData(e) ? null : e;
                one.kept.completeExceptionally(e);
            }
        }
    }
}
