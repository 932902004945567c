package org.holtra.service.kinds.mail;

import jakarta.mail.Message;
import jakarta.mail.MessagingException;
import jakarta.mail.Session;
import jakarta.mail.internet.AddressException;
import jakarta.mail.internet.InternetAddress;
import jakarta.mail.internet.MimeMessage;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Arrays;
import java.util.Date;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.holtra.core.shape.Content;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.Request;

/**
 * One mail, of one delivery or of several.
 *
 * @param key the same for every attempt, so that a mail server can recognise a mail that it has
 */
record Letter(List<String> to, String subject, boolean html, String text, String key) {

    /** @throws IllegalArgumentException if nobody is to get it, or an address is none; with a sentence for people */
    static Letter of(Request request, MailTarget target) {
        Content first = request.content();
        List<String> to = recipients(first, target);
        boolean html = isHtml(first);
        String subject = subject(first, target);
        int more = request.parts().size() - 1;
        String text = request.parts().stream()
                .map(part -> text(part.content()))
                .collect(Collectors.joining(html ? "\n<hr>\n" : "\n\n"));
        return new Letter(
                to, more == 0 ? subject : subject + " (and " + more + " more)", html, text, request.idempotencyKey());
    }

    private static List<String> recipients(Content content, MailTarget target) {
        String said = content.envelope().text(MailShape.TO);
        List<String> to = said.isEmpty()
                ? target.to()
                : Arrays.stream(said.split("[,;]"))
                        .map(String::strip)
                        .filter(one -> !one.isEmpty())
                        .toList();
        if (to.isEmpty()) {
            throw new IllegalArgumentException(
                    "neither the lane's shape nor the outlet says who gets the mail; set `to` in one of them");
        }
        for (String one : to) {
            try {
                new InternetAddress(one, true).validate();
            } catch (AddressException e) {
                throw new IllegalArgumentException("`" + one + "` is no mail address: " + e.getMessage(), e);
            }
        }
        return to;
    }

    private static String subject(Content content, MailTarget target) {
        String said = content.envelope().text(MailShape.SUBJECT);
        return !said.isEmpty() ? said : target.subject() == null ? "Message of Holtra" : target.subject();
    }

    static boolean isHtml(Content content) {
        return content.contentType() != null && content.contentType().startsWith("text/html");
    }

    private static String text(Content content) {
        return content.body() == null ? "" : new String(content.body(), StandardCharsets.UTF_8);
    }

    MimeMessage message(Session session, MailTarget target, Instant now) throws MessagingException {
        MimeMessage message = new MimeMessage(session) {
            @Override
            protected void updateMessageID() throws MessagingException {
                setHeader("Message-ID", messageId(target));
            }
        };
        message.setFrom(new InternetAddress(target.from()));
        for (String one : to) {
            message.addRecipient(Message.RecipientType.TO, new InternetAddress(one));
        }
        message.setSubject(subject, "UTF-8");
        message.setSentDate(Date.from(now));
        message.setHeader("Auto-Submitted", "auto-generated"); // RFC 3834: nobody's absence is to answer it
        message.setText(text, "UTF-8", html ? "html" : "plain");
        return message;
    }

    /** RFC 5322, section 3.6.4. */
    private String messageId(MailTarget target) {
        return "<" + key.replaceAll("[^A-Za-z0-9.-]", "-") + "@"
                + target.from().substring(target.from().indexOf('@') + 1) + ">";
    }

    /** As people are shown it. */
    Exchange exchange(MailTarget target) {
        Map<String, String> fields = new LinkedHashMap<>();
        fields.put("From", target.from());
        fields.put("To", String.join(", ", to));
        fields.put("Subject", subject);
        fields.put("Message-ID", messageId(target));
        return new Exchange("mail to " + String.join(", ", to) + " by " + target.host() + ":" + target.port(), fields);
    }
}
