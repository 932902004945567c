package org.holtra.service.kinds.mail;

import jakarta.mail.MessagingException;
import jakarta.mail.Session;
import jakarta.mail.Transport;
import java.util.Properties;
import org.holtra.service.credentials.Credential;
import org.holtra.service.reach.ReachableSockets;
import org.holtra.service.tls.ClientTls;

/** The way to a mail server, by SMTP (RFC 5321), with STARTTLS (RFC 3207) or TLS from the start (RFC 8314). */
final class MailServer {

    private final MailTarget target;
    private final Credential credential;
    private final ClientTls tls;
    private final Session session;

    /**
     * @param credential null to send without signing in
     * @throws IllegalArgumentException if the authority cannot be read
     */
    MailServer(MailTarget target, Credential credential, String reach) {
        this.target = target;
        this.credential = credential;
        this.tls = ClientTls.of(target.authority(), null, null);
        Properties properties = new Properties();
        String timeout = Long.toString(target.timeout().toMillis());
        properties.put("mail.smtp.connectiontimeout", timeout);
        properties.put("mail.smtp.timeout", timeout);
        properties.put("mail.smtp.writetimeout", timeout);
        properties.put("mail.smtp.auth", Boolean.toString(credential != null));
        properties.put("mail.smtp.socketFactory", new ReachableSockets(reach));
        properties.put("mail.smtp.socketFactory.fallback", "false");
        properties.put("mail.smtp.ssl.checkserveridentity", "true");
        properties.put("mail.smtp.ssl.socketFactory", tls.sockets());
        switch (target.security()) {
            case STARTTLS -> {
                properties.put("mail.smtp.starttls.enable", "true");
                properties.put("mail.smtp.starttls.required", "true");
            }
            case TLS -> properties.put("mail.smtp.ssl.enable", "true");
            case NONE -> {
                // Nothing is encrypted.
            }
        }
        this.session = Session.getInstance(properties);
    }

    Session session() {
        return session;
    }

    ClientTls tls() {
        return tls;
    }

    /** Connected and signed in. */
    Transport connect() throws MessagingException {
        Transport transport = session.getTransport("smtp");
        try {
            transport.connect(
                    target.host(),
                    target.port(),
                    credential == null ? null : credential.field("user"),
                    credential == null ? null : credential.field("password"));
            return transport;
        } catch (MessagingException e) {
            try {
                transport.close();
            } catch (MessagingException again) {
                e.addSuppressed(again);
            }
            throw e;
        }
    }
}
