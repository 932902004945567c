package org.holtra.scripts;

import java.time.Duration;

/**
 * What a script may take.
 *
 * @param time for one call
 * @param memoryMegabytes heap of the process that runs scripts, all of them together
 * @param strikes after so many calls in a row that had to be stopped, a script rests
 * @param rest how long it rests then
 */
public record ScriptLimits(Duration time, int memoryMegabytes, int strikes, Duration rest) {

    public static final ScriptLimits USUAL = new ScriptLimits(Duration.ofMillis(500), 128, 3, Duration.ofMinutes(1));
}
