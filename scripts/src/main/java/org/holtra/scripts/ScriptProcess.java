package org.holtra.scripts;

import java.io.BufferedInputStream;
import java.io.BufferedOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.File;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Collectors;

/** One process that runs scripts, seen from its parent. Calls are made one after another. */
final class ScriptProcess implements AutoCloseable {

    /** The process is gone, and the call with it. */
    static final class Ended extends Exception {

        enum Why {
            /** The call took too long. */
            TIME,
            /** The process ended by itself during the call, for want of memory. */
            MEMORY,
            /** It was gone before the call began; another process can be asked. */
            BEFORE,
            /** It never came to life. */
            START
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

    private static final long START_SECONDS = 60;

    private final Process process;
    private final DataInputStream in;
    private final DataOutputStream out;
    private final ScheduledExecutorService clock;
    private final long limitNanos;
    private final Map<String, Integer> defined = new HashMap<>();
    /** The number of the call that runs, or 0. */
    private final AtomicInteger running = new AtomicInteger();

    private int calls;
    private boolean ready;
    private volatile boolean overdue;
    private volatile boolean gone;

    ScriptProcess(ScriptLimits limits, ScheduledExecutorService clock) throws IOException {
        this.clock = clock;
        this.limitNanos = limits.time().toNanos();
        process = new ProcessBuilder(List.of(
                        Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                        "-Xmx" + limits.memoryMegabytes() + "m",
                        "-XX:+UseSerialGC",
                        "-XX:+ExitOnOutOfMemoryError",
                        "-XX:-UsePerfData",
                        "-Xshare:auto",
                        "--enable-native-access=ALL-UNNAMED",
                        "-Dpolyglot.engine.WarnInterpreterOnly=false",
                        "-cp",
                        classpath(),
                        ScriptHost.class.getName()))
                .directory(new File(System.getProperty("java.io.tmpdir")))
                .redirectError(ProcessBuilder.Redirect.DISCARD)
                .start();
        in = new DataInputStream(new BufferedInputStream(process.getInputStream()));
        out = new DataOutputStream(new BufferedOutputStream(process.getOutputStream()));
    }

    /** This process's own, with absolute paths, for the other one works elsewhere. */
    private static String classpath() {
        return Arrays.stream(System.getProperty("java.class.path").split(File.pathSeparator))
                .map(entry -> Path.of(entry).toAbsolutePath().toString())
                .collect(Collectors.joining(File.pathSeparator));
    }

    boolean alive() {
        return process.isAlive() && !overdue && !gone;
    }

    /**
     * @throws ScriptFailure if the script threw
     * @throws Ended if the process ended during the call, or before it
     */
    synchronized String call(String source, String function, String input) throws ScriptFailure, Ended {
        ScheduledFuture<?> alarm = null;
        int number = ++calls;
        if (!alive()) {
            gone = true;
            throw new Ended(ready ? Ended.Why.BEFORE : Ended.Why.START);
        }
        try {
            awaitReady();
            running.set(number);
            alarm = clock.schedule(() -> end(number), limitNanos, TimeUnit.NANOSECONDS);
            int script = define(source);
            out.writeByte(ScriptHost.CALL);
            out.writeInt(script);
            text(function);
            text(input);
            out.flush();
            byte kind = in.readByte();
            if (kind != ScriptHost.ANSWERED && kind != ScriptHost.FAILED) {
                // The machine itself says on standard output that it ends for want of memory.
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
            throw new Ended(!ready ? Ended.Why.START : overdue ? Ended.Why.TIME : Ended.Why.MEMORY);
        } finally {
            if (alarm != null) {
                running.set(0);
                alarm.cancel(false);
            }
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

    private void awaitReady() throws IOException {
        if (!ready) {
            ScheduledFuture<?> alarm = clock.schedule(process::destroyForcibly, START_SECONDS, TimeUnit.SECONDS);
            in.readByte();
            alarm.cancel(false);
            ready = true;
        }
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
