package org.holtra.service.kinds.http;

import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.time.Duration;
import java.time.Instant;
import java.util.Base64;
import java.util.Optional;
import java.util.function.UnaryOperator;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * Signatures as Standard Webhooks 1.0 has them: HMAC-SHA256 over id, timestamp and body, in the headers
 * {@code webhook-id}, {@code webhook-timestamp} and {@code webhook-signature}.
 */
final class WebhookSignature {

    private static final String PREFIX = "whsec_";
    private static final String VERSION = "v1,";
    static final String ID = "webhook-id";
    static final Duration TOLERANCE = Duration.ofMinutes(5);

    private WebhookSignature() {}

    static Optional<String> refusal(String secret, UnaryOperator<String> header, byte[] body, Instant now) {
        String id = header.apply(ID);
        String timestamp = header.apply("webhook-timestamp");
        String signatures = header.apply("webhook-signature");
        if (id == null || timestamp == null || signatures == null) {
            return Optional.of("the inlet wants the headers webhook-id, webhook-timestamp and webhook-signature");
        }
        Optional<Instant> sent = seconds(timestamp);
        if (sent.isEmpty()) {
            return Optional.of("webhook-timestamp must be a number of seconds since 1970");
        }
        if (Duration.between(sent.get(), now).abs().compareTo(TOLERANCE) > 0) {
            return Optional.of("webhook-timestamp is more than " + TOLERANCE.toMinutes()
                    + " minutes away from this service's clock, which says " + now.getEpochSecond());
        }
        byte[] expected = sign(secret, id, timestamp, body);
        for (String signature : signatures.split(" ")) {
            if (signature.startsWith(VERSION)
                    && MessageDigest.isEqual(
                            expected, signature.substring(VERSION.length()).getBytes(StandardCharsets.US_ASCII))) {
                return Optional.empty();
            }
        }
        return Optional.of("none of the signatures in webhook-signature is that of this body under the inlet's secret");
    }

    /** The signature in base64, without its version. */
    static byte[] sign(String secret, String id, String timestamp, byte[] body) {
        String encoded = secret.startsWith(PREFIX) ? secret.substring(PREFIX.length()) : secret;
        try {
            Mac mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(Base64.getDecoder().decode(encoded), "HmacSHA256"));
            mac.update((id + "." + timestamp + ".").getBytes(StandardCharsets.UTF_8));
            return Base64.getEncoder().encode(mac.doFinal(body));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("every Java platform has HmacSHA256", e);
        }
    }

    private static Optional<Instant> seconds(String text) {
        try {
            return Optional.of(Instant.ofEpochSecond(Long.parseLong(text.strip())));
        } catch (NumberFormatException | java.time.DateTimeException e) {
            return Optional.empty();
        }
    }
}
