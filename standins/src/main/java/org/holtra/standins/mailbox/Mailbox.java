package org.holtra.standins.mailbox;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CopyOnWriteArrayList;

/** Keeps the mail that came, the newest last. */
public final class Mailbox {

    private static final int KEPT = 200;

    /**
     * @param from of the envelope
     * @param to of the envelope
     * @param text header and body as they came
     */
    public record Mail(String from, List<String> to, String text) {

        public String header(String name) {
            String wanted = name.toLowerCase(java.util.Locale.ROOT) + ":";
            String head = text.split("\r\n\r\n", 2)[0].replaceAll("\r\n[ \t]+", " ");
            return head.lines()
                    .filter(line -> line.toLowerCase(java.util.Locale.ROOT).startsWith(wanted))
                    .map(line -> line.substring(wanted.length()).strip())
                    .findFirst()
                    .orElse("");
        }

        public String body() {
            String[] parts = text.split("\r\n\r\n", 2);
            return parts.length < 2 ? "" : parts[1];
        }
    }

    private final List<Mail> mails = new CopyOnWriteArrayList<>();

    void take(Mail mail) {
        mails.add(mail);
        while (mails.size() > KEPT) {
            mails.removeFirst();
        }
    }

    public List<Mail> mails() {
        return new ArrayList<>(mails);
    }
}
