package org.holtra.service.tokens;

import java.security.cert.X509Certificate;
import java.time.Instant;
import java.util.Base64;
import java.util.Comparator;
import java.util.Optional;
import org.holtra.service.credentials.Credential;
import org.holtra.service.tls.PemText;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/** When a credential ends, as far as it says so itself: a certificate, or a token that is a JWT (RFC 7519, section 4.1.4). */
public final class Expiry {

    private static final JsonMapper JSON = JsonMapper.shared();

    private Expiry() {}

    /** Empty if it does not say. */
    public static Optional<Instant> of(Credential credential) {
        String certificate = credential.fields().get("certificate");
        if (certificate != null) {
            return PemText.certificates(certificate).stream()
                    .map(X509Certificate::getNotAfter)
                    .map(java.util.Date::toInstant)
                    .min(Comparator.naturalOrder());
        }
        String token = credential.fields().get("token");
        return token == null ? Optional.empty() : claimed(token);
    }

    private static Optional<Instant> claimed(String token) {
        String[] parts = token.split("\\.");
        if (parts.length != 3) {
            return Optional.empty();
        }
        try {
            long seconds = JSON.readTree(Base64.getUrlDecoder().decode(parts[1]))
                    .path("exp")
                    .asLong(0);
            return seconds == 0 ? Optional.empty() : Optional.of(Instant.ofEpochSecond(seconds));
        } catch (IllegalArgumentException | JacksonException e) {
            return Optional.empty(); // three parts, and no JWT
        }
    }
}
