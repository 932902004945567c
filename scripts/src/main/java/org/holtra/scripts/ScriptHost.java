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

/**
 * The process that runs scripts, one call after another, as its parent asks on standard input. It bounds nothing by
 * itself but its heap: the parent ends it when a call takes too long, and it ends by itself when memory runs out.
 */
public final class ScriptHost {

    static final byte READY = 'R';
    static final byte DEFINE = 'S';
    static final byte CALL = 'C';
    static final byte ANSWERED = 'A';
    static final byte FAILED = 'F';

    /** Deep enough for any real script; a runaway recursion ends well before a minute of building its trace. */
    private static final long STACK_BYTES = 4L << 20;

    private final DataInputStream in;
    private final DataOutputStream out;

    private ScriptHost(DataInputStream in, DataOutputStream out) {
        this.in = in;
        this.out = out;
    }

    public static void main(String[] arguments) throws InterruptedException {
        ScriptHost host = new ScriptHost(
                new DataInputStream(new BufferedInputStream(System.in)),
                new DataOutputStream(new BufferedOutputStream(new FileOutputStream(FileDescriptor.out))));
        // Whatever else writes to standard output must not get between the answers.
        System.setOut(System.err);
        Thread thread = new Thread(null, host::run, "scripts", STACK_BYTES);
        thread.start();
        thread.join();
    }

    private void run() {
        try (Worlds worlds = new Worlds()) {
            worlds.warmUp();
            out.writeByte(READY);
            out.flush();
            while (true) {
                switch (in.readByte()) {
                    case DEFINE -> worlds.define(in.readInt(), text());
                    case CALL -> answer(worlds, in.readInt(), text(), text());
                    default -> throw new IOException("an unknown request");
                }
            }
        } catch (EOFException e) {
            // The parent has gone, or needs this process no more.
        } catch (IOException e) {
            System.err.println("The script host ends: " + e.getMessage());
        }
    }

    private void answer(Worlds worlds, int script, String function, String input) throws IOException {
        try {
            write(ANSWERED, worlds.call(script, function, input));
        } catch (ScriptFailure e) {
            write(FAILED, e.getMessage());
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
