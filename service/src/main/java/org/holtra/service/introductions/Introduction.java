package org.holtra.service.introductions;

import java.time.Instant;
import java.util.Optional;
import java.util.UUID;
import org.holtra.core.introduction.StepName;
import org.holtra.core.introduction.StepOutcome.Why;
import org.holtra.core.introduction.There;
import org.holtra.service.credentials.Credential;

/**
 * A device at an outlet's destination, as far as it is known there.
 *
 * @param there what it is called there; null before its name was made
 * @param credential of its own, presented with its messages; null if it has none
 * @param progress how far its introduction has come
 * @param refusal null unless it is refused, or is tried again
 * @param asked who wants it there
 */
public record Introduction(
        String outlet,
        String device,
        IntroductionState state,
        There there,
        Credential credential,
        Progress progress,
        Refusal refusal,
        Asked asked) {

    /**
     * @param step that comes next, or that was refused; null if none is left
     * @param existed whether somebody else made it there
     * @param creating whether we may have created it there
     * @param anew whether it was introduced once more, and nothing was delivered since
     * @param version counts its introductions
     * @param since it is in this state
     * @param next when it is tried again
     * @param attempts of the step so far
     * @param revision of the setup whose recipe was used
     */
    public record Progress(
            StepName step,
            boolean existed,
            boolean creating,
            boolean anew,
            long version,
            Instant since,
            Instant next,
            int attempts,
            int revision) {

        /** Stands for the time of the next try, here and in the SQL, where only a person or a change brings one. */
        public static final Instant NEVER = Instant.parse("9999-01-01T00:00:00Z");

        /** The same with another step to come. */
        public Progress to(StepName other, Instant when, int tries) {
            return new Progress(other, existed, creating, anew, version, since, when, tries, revision);
        }

        public Progress existed(boolean it) {
            return new Progress(step, it, creating, anew, version, since, next, attempts, revision);
        }

        public Progress creating(boolean it) {
            return new Progress(step, existed, it, anew, version, since, next, attempts, revision);
        }

        public Progress since(Instant when) {
            return new Progress(step, existed, creating, anew, version, when, next, attempts, revision);
        }

        public Progress by(int setup) {
            return new Progress(step, existed, creating, anew, version, since, next, attempts, setup);
        }
    }

    /** @param why null if it is only tried again */
    public record Refusal(Why why, String reason) {}

    /** @param job that wants it; null if a message does */
    public record Asked(String by, UUID job) {}

    public Introduction with(Progress other) {
        return new Introduction(outlet, device, state, there, credential, other, refusal, asked);
    }

    public Introduction with(Credential other) {
        return new Introduction(outlet, device, state, there, other, progress, refusal, asked);
    }

    public Introduction with(There other) {
        return new Introduction(outlet, device, state, other, credential, progress, refusal, asked);
    }

    /** @param other null if nothing is in the way */
    public Introduction with(IntroductionState now, Refusal other) {
        return new Introduction(outlet, device, now, there, credential, progress, other, asked);
    }

    public boolean isKnown() {
        return state == IntroductionState.KNOWN;
    }

    /** Whether it is to be gone there; also after that was refused. */
    public boolean isRemoval() {
        return state == IntroductionState.REMOVING
                || progress.step == StepName.REMOVE && state != IntroductionState.INTRODUCING;
    }

    /** Why its deliveries wait, in a sentence; empty if they need not. */
    public Optional<String> waits() {
        String step = progress.step == null ? "" : ": " + progress.step.word();
        return switch (state) {
            case KNOWN -> Optional.empty();
            case WAITING -> Optional.of("waiting to be introduced at " + outlet + because());
            case INTRODUCING -> Optional.of("being introduced at " + outlet + step + because());
            case REFUSED -> Optional.of("its introduction at " + outlet + " was refused" + step + because());
            case REMOVING -> Optional.of("being removed at " + outlet);
        };
    }

    private String because() {
        return refusal == null ? "" : "; " + refusal.reason;
    }
}
