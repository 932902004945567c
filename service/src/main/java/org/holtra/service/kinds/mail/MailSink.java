package org.holtra.service.kinds.mail;

import jakarta.mail.MessagingException;
import jakarta.mail.Transport;
import jakarta.mail.internet.MimeMessage;
import java.nio.charset.StandardCharsets;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.eclipse.angus.mail.smtp.SMTPTransport;
import org.holtra.core.delivery.Answer;
import org.holtra.core.delivery.Verdict;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.Content;
import org.holtra.service.dispatch.Attempted;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.Request;
import org.holtra.service.dispatch.Sink;

/** Sends a mail for each delivery, or one for several. It is delivered once the server has taken it. */
final class MailSink implements Sink {

    private final Outlet outlet;
    private final MailTarget target;
    private final MailServer server;
    private final InstantSource clock;

    MailSink(Outlet outlet, MailTarget target, MailServer server, InstantSource clock) {
        this.outlet = outlet;
        this.target = target;
        this.server = server;
        this.clock = clock;
    }

    @Override
    public boolean keepsOrderWithin() {
        return true;
    }

    @Override
    public Optional<String> whyNotTogether(Content content) {
        return Optional.empty();
    }

    @Override
    public Attempted attempt(Request request) {
        Letter letter;
        try {
            letter = Letter.of(request, target);
        } catch (IllegalArgumentException e) {
            return Attempted.unanswered(
                    new Verdict.Refused(e.getMessage()), "no mail", new Exchange("nothing was sent", Map.of()));
        }
        Exchange exchange = letter.exchange(target);
        try (Transport transport = server.connect()) {
            MimeMessage message = letter.message(server.session(), target, clock.instant());
            message.saveChanges();
            transport.sendMessage(message, message.getAllRecipients());
            String said = transport instanceof SMTPTransport smtp
                    ? smtp.getLastServerResponse().strip()
                    : "250";
            return new Attempted(
                    judged("250", said).orElse(new Verdict.Delivered()),
                    "250",
                    "250",
                    exchange.answered(said.getBytes(StandardCharsets.UTF_8)));
        } catch (MessagingException e) {
            MailFailure failure = MailFailure.of(e, target, server.tls());
            if (failure.code() == null) {
                return Attempted.unanswered(failure.verdict(), failure.step(), exchange);
            }
            return new Attempted(
                    judged(failure.code(), failure.words()).orElse(failure.verdict()),
                    failure.code(),
                    failure.code(),
                    exchange.answered(failure.words().getBytes(StandardCharsets.UTF_8)),
                    List.of());
        }
    }

    private Optional<Verdict> judged(String code, String said) {
        return outlet.manner().verdicts().judge(new Answer(code, Map.of(), said), clock.instant());
    }

    @Override
    public Exchange preview(Request request) {
        return Letter.of(request, target).exchange(target);
    }

    @Override
    public void close() {
        // Each attempt has a connection of its own.
    }
}
