package org.holtra.service.web;

import java.time.Duration;

/**
 * How long the rest of a refused body is read and thrown away: until a pause, a time or a size is reached.
 *
 * @param bytes up to and with these
 */
record Linger(Duration pause, Duration inAll, long bytes) {

    /** The largest body that any call takes passes, over a link of 3 Mbit/s and faster. */
    static final Linger USUAL = new Linger(Duration.ofSeconds(5), Duration.ofSeconds(30), 16L << 20);

    /** Whether more is read when so many bytes have come in this time. */
    boolean goesOn(long come, Duration since) {
        return come <= bytes && since.compareTo(inAll) < 0;
    }
}
