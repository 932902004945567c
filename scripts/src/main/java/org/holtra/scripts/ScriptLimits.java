package org.holtra.scripts;

import java.time.Duration;

/**
 * What a script may take.
 *
 * @param time of a processor that one call may use, once the script has run before; its first call may use {@link #FIRST}
 *     times that, since it is compiled then. Time in which the machine does other things does not count
 * @param memoryMegabytes heap of the process that runs scripts, all of them together
 * @param strikes after so many calls in a row that had to be stopped, a script rests
 * @param rest how long it rests then
 * @param patience how long a caller waits for its turn, or for the process to start
 */
public record ScriptLimits(Duration time, int memoryMegabytes, int strikes, Duration rest, Duration patience, Use use) {

    /** What the processes are there for. */
    public enum Use {
        /** Messages that come in: a spare process takes over at once when one has to be ended. */
        INTAKE,
        /** Many messages, with nobody waiting for any of them. */
        HISTORY,
        /** A call or two: the process is ready sooner, and would be slower in the long run. */
        TRIES
    }

    public static final ScriptLimits USUAL =
            new ScriptLimits(Duration.ofMillis(500), 128, 3, Duration.ofMinutes(1), Duration.ofMinutes(1), Use.INTAKE);

    public static final ScriptLimits BRIEF =
            new ScriptLimits(USUAL.time, USUAL.memoryMegabytes, USUAL.strikes, USUAL.rest, USUAL.patience, Use.TRIES);

    static final int FIRST = 4;

    /** By the clock on the wall, so many times its processor time is more than a call ever takes, on any machine. */
    private static final int FAR = 120;

    /** After so long a call is stopped whatever it used, such as one that waits for something. */
    Duration far() {
        return time.multipliedBy(FAR);
    }
}
