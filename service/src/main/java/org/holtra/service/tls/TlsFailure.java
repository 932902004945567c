package org.holtra.service.tls;

import java.security.cert.X509Certificate;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/**
 * Why a connection with TLS failed, in words.
 *
 * @param mend what to do about it
 * @param authority what would have to be trusted; null if that is not what is wrong
 * @param refused whether the server refuses the client's certificate, or wants one
 */
public record TlsFailure(String words, String mend, X509Certificate authority, boolean refused) {

    private static final Pattern ALERT =
            Pattern.compile("Received fatal alert: (\\w+)|\\((\\w+)\\) Received fatal alert");

    private static final Pattern ABOUT_OUR_CERTIFICATE = Pattern.compile(
            "bad_certificate|certificate_required|certificate_unknown|certificate_expired|certificate_revoked"
                    + "|unsupported_certificate|unknown_ca|access_denied");

    static TlsFailure of(Throwable failure, boolean showsCertificate) {
        Optional<ServerTrust.Untrusted> untrusted = untrusted(failure);
        if (untrusted.isPresent()) {
            ServerTrust.Untrusted why = untrusted.get();
            return new TlsFailure(why.getMessage(), why.mend(), why.authority(), false);
        }
        String said = String.valueOf(failure.getMessage());
        if (Stream.of("plaintext connection", "Unrecognized SSL message", "unrecognized SSL message")
                .anyMatch(said::contains)) {
            return new TlsFailure("this port does not speak TLS", NO_TLS, null, false);
        }
        Matcher alert = ALERT.matcher(said);
        String word = alert.find() ? alert.group(1) == null ? alert.group(2) : alert.group(1) : "";
        if (ABOUT_OUR_CERTIFICATE.matcher(word).matches()) {
            return showsCertificate
                    ? new TlsFailure(
                            "the server refuses the client certificate (" + word + ")",
                            "Have the certificate's authority trusted there, or save a certificate that is.",
                            null,
                            true)
                    : new TlsFailure(
                            "the server wants a client certificate, and none is set (" + word + ")",
                            "Save one as a credential of the form certificate, and name it here.",
                            null,
                            true);
        }
        return new TlsFailure(
                "its TLS is not as it should be: " + said, "Ask who runs the server to look at it.", null, false);
    }

    /** For a port that should speak TLS and does not. */
    public static final String NO_TLS = "Write the address without TLS, or name the port that speaks it.";

    private static Optional<ServerTrust.Untrusted> untrusted(Throwable failure) {
        for (Throwable at = failure; at != null; at = at.getCause()) {
            if (at instanceof ServerTrust.Untrusted untrusted) {
                return Optional.of(untrusted);
            }
        }
        return Optional.empty();
    }
}
