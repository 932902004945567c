package org.holtra.bench.load;

import java.io.IOException;
import java.io.InputStream;

/** A request or response of HTTP/1.1 with a Content-Length, read with as little work as will do. */
record Exchange(int status, byte[] body) {

    /** Null at the end of the stream. */
    static Exchange read(InputStream in) throws IOException {
        String first = line(in);
        if (first == null) {
            return null;
        }
        int length = 0;
        boolean chunked = false;
        for (String header = line(in); header != null && !header.isEmpty(); header = line(in)) {
            if (header.regionMatches(true, 0, "content-length:", 0, 15)) {
                length = Integer.parseInt(header.substring(15).strip());
            } else if (header.regionMatches(true, 0, "transfer-encoding:", 0, 18)) {
                chunked = true;
            }
        }
        int status = first.startsWith("HTTP/") ? Integer.parseInt(first.substring(9, 12)) : 0;
        return new Exchange(status, chunked ? chunks(in) : in.readNBytes(length));
    }

    private static byte[] chunks(InputStream in) throws IOException {
        byte[] all = new byte[0];
        for (int size = Integer.parseInt(line(in), 16); ; size = Integer.parseInt(line(in), 16)) {
            byte[] chunk = in.readNBytes(size);
            line(in);
            if (size == 0) {
                return all;
            }
            byte[] joined = java.util.Arrays.copyOf(all, all.length + size);
            System.arraycopy(chunk, 0, joined, all.length, size);
            all = joined;
        }
    }

    private static String line(InputStream in) throws IOException {
        StringBuilder line = new StringBuilder(64);
        for (int c = in.read(); c >= 0; c = in.read()) {
            if (c == '\n') {
                return line.toString();
            }
            if (c != '\r') {
                line.append((char) c);
            }
        }
        return null;
    }
}
