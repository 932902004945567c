package org.holtra.core.shape;

import java.io.ByteArrayOutputStream;
import java.io.OutputStream;
import java.util.function.Consumer;
import tools.jackson.core.JacksonException;

/** Takes a body while it is written, up to a size: a shape that repeats a large field for each element makes much of little. */
final class BoundedBytes extends OutputStream {

    /** In bytes. */
    static final int LONGEST = 16 << 20;

    private static final class Full extends RuntimeException {

        private static final long serialVersionUID = 1;

        Full() {
            super("full", null, false, false);
        }
    }

    private final ByteArrayOutputStream bytes = new ByteArrayOutputStream(512);

    private BoundedBytes() {}

    /** @throws ShapeFailure if it is larger than a body may be */
    static byte[] written(Consumer<OutputStream> writer) throws ShapeFailure {
        BoundedBytes out = new BoundedBytes();
        try {
            writer.accept(out);
        } catch (Full e) {
            throw tooLarge();
        } catch (JacksonException e) {
            if (e.getCause() instanceof Full) {
                throw tooLarge();
            }
            throw e;
        }
        return out.bytes.toByteArray();
    }

    /** @throws ShapeFailure if a text is longer than a body may be */
    static void check(long length) throws ShapeFailure {
        if (length > LONGEST) {
            throw tooLarge();
        }
    }

    private static ShapeFailure tooLarge() {
        return new ShapeFailure("body", "it would be larger than " + LONGEST + " bytes", false);
    }

    @Override
    public void write(int one) {
        write(new byte[] {(byte) one}, 0, 1);
    }

    @Override
    public void write(byte[] from, int at, int count) {
        if (bytes.size() + (long) count > LONGEST) {
            throw new Full();
        }
        bytes.write(from, at, count);
    }
}
