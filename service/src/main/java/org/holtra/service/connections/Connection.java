package org.holtra.service.connections;

import com.fasterxml.jackson.annotation.JsonValue;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Objects;

/** How this node's end of an inlet or outlet stands, as its kind tells it; each change is a line in its diary. */
public final class Connection {

    /** As it stands. */
    public enum State {
        CONNECTING("connecting"),
        CONNECTED("connected"),
        WAITING("waiting to try again"),
        REFUSED("refused"),
        BROKEN("broken"),
        PAUSED("paused"),
        ELSEWHERE("on another node"),
        CLOSED("closed");

        private final String word;

        State(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /**
     * @param reason why it is so, in words; null where there is nothing to explain
     * @param since when it came to be so
     * @param lastGood when it last did what it is there for; null if it never did since the service started
     */
    public record Status(State state, String reason, Instant since, Instant lastGood) {}

    private final Thing thing;
    private final Diary diary;
    private final InstantSource clock;
    private volatile State state = State.CLOSED;
    private volatile String reason;
    private volatile Instant since;
    private volatile Instant lastGood;

    Connection(Thing thing, Diary diary, InstantSource clock) {
        this.thing = thing;
        this.diary = diary;
        this.clock = clock;
        this.since = clock.instant();
    }

    public synchronized Status status() {
        return new Status(state, reason, since, lastGood);
    }

    /** @param why null where there is nothing to explain */
    public void become(State next, String why) {
        become(next, why, null);
    }

    /** @param detail what only somebody who looks for the cause wants to read, such as the text of an exception; or null */
    public synchronized void become(State next, String why, String detail) {
        if (state == next && Objects.equals(reason, why)) {
            return;
        }
        if (state != next) {
            since = clock.instant();
        }
        state = next;
        reason = why;
        diary.write(thing, next.word() + (why == null ? "" : ": " + why), detail);
    }

    /** It did what it is there for. */
    public void good(Instant at) {
        lastGood = at;
    }

    /** Something that happened and changes nothing. */
    public void note(String line, String detail) {
        diary.write(thing, line, detail);
    }
}
