package org.holtra.service.kinds.mail;

import jakarta.mail.AuthenticationFailedException;
import jakarta.mail.MessagingException;
import jakarta.mail.SendFailedException;
import java.net.ConnectException;
import java.net.SocketTimeoutException;
import java.net.UnknownHostException;
import java.security.cert.X509Certificate;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.net.ssl.SSLException;
import org.eclipse.angus.mail.smtp.SMTPAddressFailedException;
import org.eclipse.angus.mail.smtp.SMTPSendFailedException;
import org.eclipse.angus.mail.smtp.SMTPSenderFailedException;
import org.holtra.core.delivery.Verdict;
import org.holtra.service.reach.CheckedAddresses;
import org.holtra.service.tls.ClientTls;
import org.holtra.service.tls.TlsFailure;

/**
 * Why a mail did not go, and what that means for its delivery.
 *
 * @param step of a check, that failed
 * @param code of the server's reply (RFC 5321, section 4.2); null where it said nothing
 * @param authority what would have to be trusted; null if that is not what is wrong
 */
record MailFailure(String step, String code, String words, String mend, X509Certificate authority, Verdict verdict) {

    private static final Pattern REPLY = Pattern.compile("^\\s*([45]\\d\\d)[ -]");

    static MailFailure of(MessagingException e, MailTarget target, ClientTls tls) {
        for (Throwable at = e; at != null; at = next(at)) {
            MailFailure known = known(at, target, tls);
            if (known != null) {
                return known;
            }
        }
        String said = String.valueOf(e.getMessage()).strip();
        Matcher reply = REPLY.matcher(said);
        if (reply.find()) {
            return replied(Integer.parseInt(reply.group(1)), said);
        }
        if (said.contains("STARTTLS is required")) {
            return blocked(
                    "TLS",
                    null,
                    "the server does not offer STARTTLS, and nothing is sent without",
                    "Set the outlet's security to tls, or to none if the way to the server is safe.");
        }
        return new MailFailure(
                "connected",
                null,
                "the connection broke: " + said,
                "It is tried again by itself.",
                null,
                new Verdict.TryLater("the connection broke: " + said, null, true, true));
    }

    /** Jakarta Mail chains its exceptions in a way of its own. */
    private static Throwable next(Throwable at) {
        return at instanceof MessagingException mail && mail.getNextException() != null
                ? mail.getNextException()
                : at.getCause() == at ? null : at.getCause();
    }

    private static MailFailure known(Throwable at, MailTarget target, ClientTls tls) {
        return switch (at) {
            case AuthenticationFailedException refused ->
                blocked(
                        "signed in",
                        code(refused.getMessage()),
                        "the mail server refuses the user or the password: "
                                + String.valueOf(refused.getMessage()).strip(),
                        "Save the right ones in the credential; some servers want a password for programs.");
            case SMTPAddressFailedException address -> replied(address.getReturnCode(), address.getMessage());
            case SMTPSenderFailedException sender -> replied(sender.getReturnCode(), sender.getMessage());
            case SMTPSendFailedException sending
            when !(sending.getNextException() instanceof SendFailedException) ->
                replied(sending.getReturnCode(), sending.getMessage());
            case CheckedAddresses.OutOfReach far ->
                broken("name found", far.getMessage(), "Set HOLTRA_OUTLETS_REACH, or name another host.");
            case UnknownHostException unknown ->
                broken("name found", "no host is called " + target.host(), "Look at the outlet's host.");
            case SSLException failed -> {
                TlsFailure failure = tls.failure(failed);
                yield new MailFailure(
                        "TLS",
                        null,
                        failure.words(),
                        failure.mend(),
                        failure.authority(),
                        new Verdict.TryLater(failure.words(), null, false, true));
            }
            case ConnectException refused ->
                broken(
                        "connected",
                        "nobody listens at " + target.host() + ", port " + target.port(),
                        "Look at the port, and whether the mail server runs.");
            case SocketTimeoutException late ->
                new MailFailure(
                        "connected",
                        null,
                        "no answer within " + target.timeout().toMillis() + " ms",
                        "It is tried again by itself.",
                        null,
                        new Verdict.TryLater(
                                "no answer within " + target.timeout().toMillis() + " ms", null, true, true));
            default -> null;
        };
    }

    private static String code(String said) {
        Matcher reply = REPLY.matcher(String.valueOf(said));
        return reply.find() ? reply.group(1) : "535";
    }

    private static MailFailure replied(int code, String said) {
        String words = "the mail server answered " + String.valueOf(said).strip();
        String text = Integer.toString(code);
        if (code == 530 || code == 535 || code == 534) {
            return blocked("signed in", text, words, "Save user and password as a credential, and name it here.");
        }
        return code >= 500
                ? new MailFailure("accepted", text, words, "Look at the addresses.", null, new Verdict.Refused(words))
                : new MailFailure(
                        "accepted",
                        text,
                        words,
                        "It is tried again by itself.",
                        null,
                        new Verdict.TryLater(words, null, false, false));
    }

    private static MailFailure blocked(String step, String code, String words, String mend) {
        return new MailFailure(step, code, words, mend, null, new Verdict.OutletBlocked(words));
    }

    private static MailFailure broken(String step, String words, String mend) {
        return new MailFailure(step, null, words, mend, null, new Verdict.TryLater(words, null, false, true));
    }
}
