package org.holtra.service.intake;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import org.holtra.core.setup.Inlet;
import org.holtra.service.connections.Connection;
import org.holtra.service.credentials.Credential;
import org.holtra.service.devices.FieldDescription;
import org.holtra.service.devices.FieldDescriptions;
import org.holtra.service.journal.JournalUnavailable;
import org.holtra.service.journal.entry.Cursor;

/** What a source is given: its inlet as the active setup has it, and the way to hand over what comes. */
public final class SourceContext {

    /** What is the same for all sources. */
    record Means(
            Intake intake,
            org.holtra.service.journal.Journal journal,
            Credentials credentials,
            FieldDescriptions descriptions) {}

    /** The credential of a name, as it is now. */
    interface Credentials {
        Optional<Credential> find(String name);
    }

    private final Means means;
    private final SourceKind kind;
    private final Connection connection;
    private volatile Inlet inlet;

    SourceContext(Means means, SourceKind kind, Connection connection, Inlet inlet) {
        this.means = means;
        this.kind = kind;
        this.connection = connection;
        this.inlet = inlet;
    }

    /** How it is read may change while the source stays open; what its kind needs to know does not. */
    void become(Inlet next) {
        inlet = next;
    }

    public Inlet inlet() {
        return inlet;
    }

    public Connection connection() {
        return connection;
    }

    /** As it is now; empty if the inlet names none, or it is not there. */
    public Optional<Credential> credential() {
        return kind.credential(inlet).flatMap(means.credentials::find);
    }

    public MessageId nextId() {
        return means.intake.nextId();
    }

    /**
     * Completed once the message is durable; then its sender may be told so, after {@link #acknowledged}.
     *
     * @throws JournalUnavailable if nothing can be kept now, directly or through the future
     */
    public CompletableFuture<Receipt> take(Arrival arrival) {
        return kind.canWait() ? means.intake.takeUnlessAway(arrival, inlet) : means.intake.take(arrival, inlet);
    }

    /** The sender is told that the message is taken. */
    public void acknowledged(Receipt receipt) {
        means.intake.acknowledged(receipt, inlet.name());
    }

    /** Its sender says what fields are: their type and unit. Returns at once. */
    public void described(Map<String, FieldDescription> fields) {
        means.descriptions.told(inlet.name(), fields);
    }

    /** How far the inlet has read, in its kind's own words; empty before its first page. */
    public String cursor() {
        return means.journal.cursor(inlet.name());
    }

    /**
     * Keeps a page and the place up to which it has been read, in one transaction; returns once both are durable.
     *
     * @param page may be empty, if only the place moves
     * @param before where the cursor stood when the page was read
     * @throws JournalUnavailable if nothing is kept now, or another node has read on from there meanwhile
     */
    public void takePage(List<Arrival> page, String before, String after) {
        Cursor cursor = new Cursor(inlet.name(), before, after);
        if (page.isEmpty()) {
            means.journal.move(cursor);
        } else {
            means.intake.takePage(page, inlet, cursor);
        }
    }
}
