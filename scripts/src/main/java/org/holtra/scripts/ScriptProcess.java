package org.holtra.scripts;

import java.io.BufferedInputStream;
import java.io.BufferedOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.HashMap;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.locks.ReentrantLock;

/** One process that runs scripts, seen from its parent. Calls are made one after another. */
final class ScriptProcess implements AutoCloseable {

    /** The process is gone, and the call with it; or it was not made. */
    static final class Ended extends Exception {

        enum Why {
            /** The call used too much of a processor, or took far too long. */
            TIME,
            /** The process ended by itself during the call, for want of memory. */
            MEMORY,
            /** It was gone before the call began; another process can be asked. */
            BEFORE,
            /** It never came to life. */
            START,
            /** It did not come to this call's turn in time. */
            BUSY
        }

        private static final long serialVersionUID = 1;

        private final Why why;

        Ended(Why why) {
            super("the process has ended", null, false, false);
            this.why = why;
        }

        Why why() {
            return why;
        }
    }

    private static final long START_MINUTES = 10;

    private final Process process;
    private final Confinement confinement;
    private final DataInputStream in;
    private final DataOutputStream out;
    private final ScheduledExecutorService clock;
    private final ScriptLimits limits;
    private final Map<String, Integer> defined = new HashMap<>();
    private final ReentrantLock turn = new ReentrantLock(true);
    /** The number of the call that runs, or 0. */
    private final AtomicInteger running = new AtomicInteger();

    private int calls;
    private final CompletableFuture<Boolean> ready = new CompletableFuture<>();
    private volatile boolean overdue;
    private volatile boolean gone;

    ScriptProcess(ScriptLimits limits, ScheduledExecutorService clock) throws IOException {
        this.clock = clock;
        this.limits = limits;
        ScriptHome.Start start = ScriptHome.start(limits);
        confinement = start.confinement();
        process = start.process().start();
        in = new DataInputStream(new BufferedInputStream(process.getInputStream()));
        out = new DataOutputStream(new BufferedOutputStream(process.getOutputStream()));
        Thread.ofVirtual().name("script-start").start(this::awaitReady);
    }

    Confinement confinement() {
        return confinement;
    }

    boolean alive() {
        return process.isAlive() && !overdue && !gone;
    }

    /** On a busy machine it takes minutes to start; nobody waits for that longer than they want to. */
    private void awaitReady() {
        ScheduledFuture<?> alarm = clock.schedule(process::destroyForcibly, START_MINUTES, TimeUnit.MINUTES);
        boolean started = false;
        try {
            started = in.readByte() == ScriptHost.READY;
        } catch (IOException e) {
            started = false; // it ended before it was ready, and whoever calls is told so
        } finally {
            alarm.cancel(false);
            gone = !started;
            ready.complete(started);
        }
    }

    /**
     * @throws ScriptFailure if the script threw
     * @throws Ended if the process ended during the call, or before it
     */
    String call(String source, String function, String input, Duration patience) throws ScriptFailure, Ended {
        long until = System.nanoTime() + patience.toNanos();
        try {
            if (!ready.get(patience.toNanos(), TimeUnit.NANOSECONDS)) {
                throw new Ended(Ended.Why.START);
            }
            if (!turn.tryLock(until - System.nanoTime(), TimeUnit.NANOSECONDS)) {
                throw new Ended(Ended.Why.BUSY);
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Ended(Ended.Why.BUSY);
        } catch (TimeoutException | ExecutionException e) {
            throw new Ended(Ended.Why.BUSY);
        }
        try {
            return callNow(source, function, input);
        } finally {
            turn.unlock();
        }
    }

    private String callNow(String source, String function, String input) throws ScriptFailure, Ended {
        if (!alive()) {
            gone = true;
            throw new Ended(Ended.Why.BEFORE);
        }
        int number = ++calls;
        running.set(number);
        ScheduledFuture<?> alarm =
                clock.schedule(() -> end(number), limits.far().toNanos(), TimeUnit.NANOSECONDS);
        try {
            int script = define(source);
            out.writeByte(ScriptHost.CALL);
            out.writeInt(script);
            text(function);
            text(input);
            out.flush();
            byte kind = in.readByte();
            overdue |= kind == ScriptHost.STOPPED;
            if (kind != ScriptHost.ANSWERED && kind != ScriptHost.FAILED) {
                // It stopped the call; or the machine itself says on standard output that it ends for want of memory.
                throw new IOException("no answer");
            }
            String answer = new String(in.readNBytes(in.readInt()), StandardCharsets.UTF_8);
            if (kind == ScriptHost.FAILED) {
                throw new ScriptFailure(answer);
            }
            return answer;
        } catch (IOException e) {
            gone = true;
            process.destroyForcibly();
            throw new Ended(overdue ? Ended.Why.TIME : Ended.Why.MEMORY);
        } finally {
            running.set(0);
            alarm.cancel(false);
        }
    }

    private int define(String source) throws IOException {
        Integer known = defined.get(source);
        if (known != null) {
            return known;
        }
        int script = defined.size();
        defined.put(source, script);
        out.writeByte(ScriptHost.DEFINE);
        out.writeInt(script);
        text(source);
        return script;
    }

    /** Ends the process if this call still runs in it. */
    private void end(int call) {
        if (running.compareAndSet(call, 0)) {
            overdue = true;
            process.destroyForcibly();
        }
    }

    private void text(String text) throws IOException {
        byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
        out.writeInt(bytes.length);
        out.write(bytes);
    }

    @Override
    public void close() {
        process.destroyForcibly();
    }
}
