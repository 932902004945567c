package org.holtra.scripts;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HashMap;
import java.util.Map;
import java.util.concurrent.ScheduledThreadPoolExecutor;
import org.holtra.core.reading.codec.Decoded;
import org.holtra.core.reading.codec.Encoded;
import org.holtra.core.reading.codec.Script;

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

    /** {@code decodeUplink} of a script. Never throws for what the script does. */
    public Decoded decodeUplink(Script script, byte[] bytes, Integer port, Instant received) {
        return decode(script, "decodeUplink", bytes, port, received);
    }

    /** {@code decodeDownlink} of a script. */
    public Decoded decodeDownlink(Script script, byte[] bytes, Integer port) {
        return decode(script, "decodeDownlink", bytes, port, null);
    }

    private Decoded decode(Script script, String function, byte[] bytes, Integer port, Instant received) {
        try {
            return Answers.decoded(call(script.source(), function, Answers.uplink(bytes, port, received)));
        } catch (ScriptFailure e) {
            return Decoded.failed(e.getMessage());
        }
    }

    /** {@code encodeDownlink} of a script. */
    public Encoded encodeDownlink(Script script, Map<?, ?> data) {
        try {
            return Answers.encoded(call(script.source(), "encodeDownlink", Answers.downlink(data)));
        } catch (ScriptFailure e) {
            return Encoded.failed(e.getMessage());
        }
    }

    private String call(String source, String function, String input) throws ScriptFailure {
        while (true) {
            ScriptProcess process = process(source);
            try {
                String answer = process.call(source, function, input);
                behaved(source);
                return answer;
            } catch (ScriptProcess.Ended e) {
                switch (e.why()) {
                    // Another script ended this process while this call waited its turn.
                    case BEFORE -> {}
                    case START -> throw new ScriptFailure("scripts cannot be run: the process for them does not start");
                    case TIME ->
                        throw stopped(
                                source, "it ran longer than " + limits.time().toMillis() + " ms");
                    case MEMORY ->
                        throw stopped(
                                source,
                                "it used more memory than the " + limits.memoryMegabytes()
                                        + " MB there are for scripts");
                }
            }
        }
    }

    private synchronized ScriptProcess process(String source) throws ScriptFailure {
        if (closed) {
            throw new ScriptFailure("scripts run no more, the service is ending");
        }
        Record record = records.get(source);
        if (record != null && record.restsUntil != null) {
            if (time.instant().isBefore(record.restsUntil)) {
                throw new ScriptFailure("it was stopped " + limits.strikes() + " times in a row (" + record.lastStop
                        + ") and rests until " + record.restsUntil + ", or until it is changed");
            }
            record.restsUntil = null;
            record.strikes = 0;
        }
        if (record != null && record.suspect()) {
            quarantine = alive(quarantine);
            return quarantine;
        }
        if (main == null || !main.alive()) {
            main = spare != null && spare.alive() ? spare : start();
            spare = null;
        } else if (spare == null || !spare.alive()) {
            // Not before the second call: who calls but once needs none.
            spare = start();
        }
        return main;
    }

    private ScriptProcess alive(ScriptProcess process) {
        return process != null && process.alive() ? process : start();
    }

    private ScriptProcess start() {
        try {
            return new ScriptProcess(limits, clock);
        } catch (IOException e) {
            throw new UncheckedIOException("the process for scripts cannot be started", e);
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

    private synchronized ScriptFailure stopped(String source, String why) {
        if (records.size() >= MOST_RECORDS) {
            records.clear();
        }
        Record record = records.computeIfAbsent(source, unknown -> new Record());
        record.goodSince = 0;
        record.lastStop = why;
        if (++record.strikes >= limits.strikes()) {
            record.restsUntil = time.instant().plus(limits.rest());
        }
        return new ScriptFailure(why + ", and was stopped");
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
