package org.holtra.service.kinds.mail;

import java.time.Duration;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.holtra.core.setup.Outlet;
import org.holtra.core.text.DurationText;

/**
 * How mail is sent.
 *
 * @param authority in PEM; null for those of this machine only
 * @param to who gets it where the shape does not say
 * @param subject where the shape does not say; null for none
 */
record MailTarget(
        String host,
        int port,
        Security security,
        String authority,
        String from,
        List<String> to,
        String subject,
        Duration timeout) {

    private static final Duration USUAL_TIMEOUT = Duration.ofSeconds(10);

    /** How the connection is encrypted, with the port that is usual for it (RFC 8314, RFC 5321). */
    enum Security {
        STARTTLS(587),
        TLS(465),
        NONE(25);

        private final int port;

        Security(int port) {
            this.port = port;
        }
    }

    static MailTarget of(Outlet outlet) {
        Map<String, Object> to = outlet.to();
        Security security = to.get("security") instanceof String word
                ? Security.valueOf(word.toUpperCase(Locale.ROOT))
                : Security.STARTTLS;
        return new MailTarget(
                (String) to.get("host"),
                to.get("port") instanceof Number port ? port.intValue() : security.port,
                security,
                (String) to.get("authority"),
                (String) to.get("from"),
                to.get("to") instanceof List<?> all
                        ? all.stream().map(String::valueOf).toList()
                        : List.of(),
                (String) to.get("subject"),
                to.get("timeout") instanceof String text ? DurationText.parse(text) : USUAL_TIMEOUT);
    }
}
