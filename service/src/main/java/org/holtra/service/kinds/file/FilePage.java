package org.holtra.service.kinds.file;

import java.io.IOException;
import java.io.RandomAccessFile;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/**
 * Some of a file, as messages.
 *
 * @param bodies of the messages, in order
 * @param end up to where the file has been read then
 */
record FilePage(List<byte[]> bodies, long end) {

    static final int MOST_LINES = 500;
    static final int LONGEST = 1 << 20;

    /** A message that is longer than any may be. */
    static final class TooLong extends Exception {

        private static final long serialVersionUID = 1L;

        TooLong(String what) {
            super(what + " is longer than " + LONGEST + " bytes");
        }
    }

    /** Nothing more for now. */
    static FilePage none(long from) {
        return new FilePage(List.of(), from);
    }

    /** A file as one message. */
    static FilePage whole(RandomAccessFile file) throws IOException, TooLong {
        if (file.length() > LONGEST) {
            throw new TooLong("it");
        }
        byte[] body = new byte[(int) file.length()];
        file.seek(0);
        file.readFully(body);
        return new FilePage(List.of(body), body.length);
    }

    /**
     * The next lines that are complete. The last one of a file that has no end yet is left for later, since more of it may
     * come.
     *
     * @param from where a line begins
     * @param header the line that names the columns, to stand before each; null if there is none
     */
    static FilePage lines(RandomAccessFile file, long from, byte[] header) throws IOException, TooLong {
        byte[] buffer = new byte[(int) Math.min(LONGEST, Math.max(0, file.length() - from))];
        file.seek(from);
        file.readFully(buffer);
        List<byte[]> bodies = new ArrayList<>();
        int begin = 0;
        for (int at = 0; at < buffer.length && bodies.size() < MOST_LINES; at++) {
            if (buffer[at] == '\n') {
                byte[] line = Arrays.copyOfRange(buffer, begin, at);
                if (!new String(line, StandardCharsets.ISO_8859_1).isBlank()) {
                    bodies.add(header == null ? line : joined(header, line));
                }
                begin = at + 1;
            }
        }
        if (begin == 0 && buffer.length == LONGEST) {
            throw new TooLong("the line that begins at byte " + from);
        }
        return new FilePage(bodies, from + begin);
    }

    /** The first line of a file with its end; null while it is not complete. */
    static byte[] header(RandomAccessFile file) throws IOException, TooLong {
        byte[] buffer = new byte[(int) Math.min(LONGEST, file.length())];
        file.seek(0);
        file.readFully(buffer);
        for (int at = 0; at < buffer.length; at++) {
            if (buffer[at] == '\n') {
                return Arrays.copyOf(buffer, at + 1);
            }
        }
        if (buffer.length == LONGEST) {
            throw new TooLong("the first line");
        }
        return null;
    }

    private static byte[] joined(byte[] header, byte[] line) {
        byte[] both = Arrays.copyOf(header, header.length + line.length);
        System.arraycopy(line, 0, both, header.length, line.length);
        return both;
    }
}
