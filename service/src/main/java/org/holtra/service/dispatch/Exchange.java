package org.holtra.service.dispatch;

import java.util.Map;

/**
 * What went between Holtra and a destination, as people are shown it: in the words of the outlet's kind, with secrets
 * masked.
 *
 * @param summary what was asked of whom, in one line, such as {@code POST https://desk.example/orders}
 * @param fields what was sent beside the content, by name; for http the headers
 * @param answer the beginning of what was answered; null if nothing came
 */
public record Exchange(String summary, Map<String, String> fields, byte[] answer) {

    /** Before anything is answered. */
    public Exchange(String summary, Map<String, String> fields) {
        this(summary, fields, null);
    }

    /** The same once something was answered. */
    public Exchange answered(byte[] what) {
        return new Exchange(summary, fields, what);
    }
}
