package org.holtra.scripts;

import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ScheduledThreadPoolExecutor;
import org.holtra.core.reading.codec.Decoded;
import org.holtra.core.reading.codec.Encoded;
import org.holtra.core.reading.codec.Script;
import org.holtra.core.reading.content.CodecUnavailable;

/**
 * Runs script codecs, in processes of their own. One process serves all scripts that behave; a second stands ready to
 * take over the moment the first has to be ended. A script that had to be stopped runs in a third from then on, until it
 * has behaved for a while, so that the others wait for it once and no more; and one that has to be stopped again and
 * again rests.
 */
public final class Scripts implements AutoCloseable {

    /** What a script has done lately. */
    private static final class Record {
        int strikes;
        int goodSince;
        Instant restsUntil;
        String lastStop;

        boolean suspect() {
            return lastStop != null;
        }
    }

    private static final int GOOD_CALLS_TO_CLEAR = 1_000;
    private static final int MOST_RECORDS = 1_000;

    private final ScriptLimits limits;
    private final InstantSource time;
    private final ScheduledThreadPoolExecutor clock = new ScheduledThreadPoolExecutor(
            1, Thread.ofPlatform().daemon().name("script-clock").factory());
    private final Map<String, Record> records = new HashMap<>();
    private ScriptProcess main;
    private ScriptProcess spare;
    private ScriptProcess quarantine;
    private boolean closed;

    /** Starts nothing yet: the first script does. */
    public Scripts(ScriptLimits limits, InstantSource time) {
        this.limits = limits;
        this.time = time;
        clock.setRemoveOnCancelPolicy(true);
    }

    /**
     * {@code decodeUplink} of a script. What the script throws is in the result.
     *
     * @throws CodecUnavailable if it could not be run, or had to be stopped
     */
    public Decoded decodeUplink(Script script, byte[] bytes, Integer port, Instant received) throws CodecUnavailable {
        return decodeUplink(script, bytes, port, received, limits.patience());
    }

    /** The same for somebody with a patience of their own. */
    public Decoded decodeUplink(Script script, byte[] bytes, Integer port, Instant received, Duration patience)
            throws CodecUnavailable {
        return decode(script, "decodeUplink", Answers.uplink(bytes, port, received), patience);
    }

    /** {@code decodeDownlink} of a script. */
    public Decoded decodeDownlink(Script script, byte[] bytes, Integer port) throws CodecUnavailable {
        return decode(script, "decodeDownlink", Answers.uplink(bytes, port, null), limits.patience());
    }

    private Decoded decode(Script script, String function, String input, Duration patience) throws CodecUnavailable {
        try {
            return Answers.decoded(call(script.source(), function, input, patience));
        } catch (ScriptFailure e) {
            return Decoded.failed(e.getMessage());
        }
    }

    /** {@code encodeDownlink} of a script. */
    public Encoded encodeDownlink(Script script, Map<?, ?> data) throws CodecUnavailable {
        try {
            return Answers.encoded(call(script.source(), "encodeDownlink", Answers.downlink(data), limits.patience()));
        } catch (ScriptFailure e) {
            return Encoded.failed(e.getMessage());
        }
    }

    /** Starts the processes, so that the first script finds them ready. */
    public synchronized void start() {
        if (!closed && (main == null || !main.alive())) {
            try {
                main = spawn();
            } catch (CodecUnavailable e) {
                main = null; // told of by the first call
            }
        }
    }

    /** What the process that runs scripts is kept away from; empty while there is none. */
    public synchronized Optional<Confinement> confinement() {
        return Optional.ofNullable(main).map(ScriptProcess::confinement);
    }

    private String call(String source, String function, String input, Duration patience)
            throws ScriptFailure, CodecUnavailable {
        while (true) {
            ScriptProcess process = process(source);
            try {
                String answer = process.call(source, function, input, patience);
                behaved(source);
                return answer;
            } catch (ScriptFailure e) {
                behaved(source);
                throw e;
            } catch (ScriptProcess.Ended e) {
                switch (e.why()) {
                    // Another script ended this process while this call waited its turn.
                    case BEFORE -> {}
                    case START -> throw unavailable("the process that runs scripts does not start");
                    case BUSY -> throw unavailable("the process that runs scripts is starting or busy");
                    case TIME ->
                        throw stopped(
                                source, "it used more than " + limits.time().toMillis() + " ms of processor time");
                    case MEMORY ->
                        throw stopped(
                                source,
                                "it used more memory than the " + limits.memoryMegabytes()
                                        + " MB there are for scripts");
                }
            }
        }
    }

    private static CodecUnavailable unavailable(String why) {
        return new CodecUnavailable(why, false);
    }

    private synchronized ScriptProcess process(String source) throws CodecUnavailable {
        if (closed) {
            throw unavailable("the service is ending");
        }
        Record record = records.get(source);
        if (record != null && record.restsUntil != null) {
            if (time.instant().isBefore(record.restsUntil)) {
                throw unavailable("it was stopped " + limits.strikes() + " times in a row (" + record.lastStop
                        + ") and rests for " + limits.rest().toSeconds() + " s, or until it is changed");
            }
            record.restsUntil = null;
            record.strikes = 0;
        }
        if (record != null && record.suspect()) {
            quarantine = alive(quarantine);
            return quarantine;
        }
        if (main == null || !main.alive()) {
            main = spare != null && spare.alive() ? spare : spawn();
            spare = null;
        } else if (limits.use() == ScriptLimits.Use.INTAKE && (spare == null || !spare.alive())) {
            spare = spawn();
        }
        return main;
    }

    private ScriptProcess alive(ScriptProcess process) throws CodecUnavailable {
        return process != null && process.alive() ? process : spawn();
    }

    private ScriptProcess spawn() throws CodecUnavailable {
        try {
            return new ScriptProcess(limits, clock);
        } catch (IOException e) {
            throw unavailable("the process that runs scripts cannot be started: " + e.getMessage());
        }
    }

    private synchronized void behaved(String source) {
        Record record = records.get(source);
        if (record != null) {
            record.strikes = 0;
            if (++record.goodSince >= GOOD_CALLS_TO_CLEAR) {
                records.remove(source);
            }
        }
    }

    private synchronized CodecUnavailable stopped(String source, String why) {
        if (records.size() >= MOST_RECORDS) {
            records.clear();
        }
        Record record = records.computeIfAbsent(source, unknown -> new Record());
        record.goodSince = 0;
        record.lastStop = why;
        if (++record.strikes >= limits.strikes()) {
            record.restsUntil = time.instant().plus(limits.rest());
        }
        return new CodecUnavailable(why + " and was stopped", true);
    }

    @Override
    public synchronized void close() {
        closed = true;
        for (ScriptProcess process : new ScriptProcess[] {main, spare, quarantine}) {
            if (process != null) {
                process.close();
            }
        }
        clock.shutdownNow();
    }
}
