package org.holtra.service.tls;

import java.security.cert.X509Certificate;
import java.util.List;
import java.util.Map;
import org.holtra.service.connections.CheckStep;

/** What a check offers where an authority is not trusted: to trust it there, and only there. */
public final class TrustOffer {

    private TrustOffer() {}

    /** @param where it would be trusted, such as {@code outlet} */
    public static CheckStep.Offer of(String where, X509Certificate authority) {
        return new CheckStep.Offer(
                "Trust this authority for this " + where,
                List.of(
                        "Subject: " + authority.getSubjectX500Principal().getName(),
                        "Issuer: " + authority.getIssuerX500Principal().getName(),
                        "Valid: " + authority.getNotBefore().toInstant() + " to "
                                + authority.getNotAfter().toInstant(),
                        "SHA-256 fingerprint: " + PemText.fingerprint(authority)),
                Map.of("authority", PemText.of(authority)));
    }
}
