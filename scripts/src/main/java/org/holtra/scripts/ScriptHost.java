package org.holtra.scripts;

import java.io.BufferedInputStream;
import java.io.BufferedOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.EOFException;
import java.io.FileDescriptor;
import java.io.FileOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;

/**
 * The process that runs scripts, one call after another, as its parent asks on standard input. It ends by itself when a call
 * uses more of a processor than it may, or when memory runs out; the parent ends it when a call takes far too long by the
 * clock.
 */
public final class ScriptHost {

    static final byte READY = 'R';
    static final byte DEFINE = 'S';
    static final byte CALL = 'C';
    static final byte ANSWERED = 'A';
    static final byte FAILED = 'F';
    /** The call used too much, and this process ends. */
    static final byte STOPPED = 'T';

    /** Deep enough for any real script; a runaway recursion ends well before a minute of building its trace. */
    private static final long STACK_BYTES = 4L << 20;

    private final DataInputStream in;
    private final DataOutputStream out;

    private final Duration limit;

    private ScriptHost(DataInputStream in, DataOutputStream out, Duration limit) {
        this.in = in;
        this.out = out;
        this.limit = limit;
    }

    /** @param arguments how many milliseconds of a processor a call may use */
    public static void main(String[] arguments) throws InterruptedException {
        ScriptHost host = new ScriptHost(
                new DataInputStream(new BufferedInputStream(System.in)),
                new DataOutputStream(new BufferedOutputStream(new FileOutputStream(FileDescriptor.out))),
                Duration.ofMillis(Long.parseLong(arguments[0])));
        // Whatever else writes to standard output must not get between the answers.
        System.setOut(System.err);
        Thread thread = new Thread(null, host::run, "scripts", STACK_BYTES);
        thread.start();
        thread.join();
    }

    private void run() {
        try (Worlds worlds = new Worlds()) {
            worlds.warmUp();
            Budget budget = new Budget(this::stop);
            out.writeByte(READY);
            out.flush();
            while (true) {
                switch (in.readByte()) {
                    case DEFINE -> worlds.define(in.readInt(), text());
                    case CALL -> answer(worlds, budget, in.readInt(), text(), text());
                    default -> throw new IOException("an unknown request");
                }
            }
        } catch (EOFException e) {
            // The parent has gone, or needs this process no more.
        } catch (IOException e) {
            System.err.println("The script host ends: " + e.getMessage());
        }
    }

    private void answer(Worlds worlds, Budget budget, int script, String function, String input) throws IOException {
        budget.give(worlds.knows(script) ? limit : limit.multipliedBy(ScriptLimits.FIRST));
        try {
            String answer = worlds.call(script, function, input);
            budget.ended();
            write(ANSWERED, answer);
        } catch (ScriptFailure e) {
            budget.ended();
            write(FAILED, e.getMessage());
        }
    }

    /** The call that runs cannot be ended by itself: whatever it does, the process ends. */
    private void stop() {
        try {
            out.writeByte(STOPPED);
            out.flush();
        } catch (IOException e) {
            System.err.println("The script host cannot say why it ends: " + e.getMessage());
        } finally {
            Runtime.getRuntime().halt(1);
        }
    }

    private void write(byte kind, String text) throws IOException {
        byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
        out.writeByte(kind);
        out.writeInt(bytes.length);
        out.write(bytes);
        out.flush();
    }

    private String text() throws IOException {
        return new String(in.readNBytes(in.readInt()), StandardCharsets.UTF_8);
    }
}
