package org.holtra.standins.network;

import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.time.Instant;
import java.util.Base64;
import java.util.Map;
import java.util.UUID;
import java.util.function.Function;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/** Troubles bodies as Standard Webhooks 1.0 has it. */
public final class WebhookHeaders implements Function<byte[], Map<String, String>> {

    private final byte[] key;

    /** @param secret {@code whsec_} and base64 */
    public WebhookHeaders(String secret) {
        this.key = Base64.getDecoder().decode(secret.substring("whsec_".length()));
    }

    @Override
    public Map<String, String> apply(byte[] body) {
        String id = "msg_" + UUID.randomUUID();
        String timestamp = Long.toString(Instant.now().getEpochSecond());
        try {
            Mac mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(key, "HmacSHA256"));
            mac.update((id + "." + timestamp + ".").getBytes(StandardCharsets.UTF_8));
            String signature = "v1," + Base64.getEncoder().encodeToString(mac.doFinal(body));
            return Map.of("webhook-id", id, "webhook-timestamp", timestamp, "webhook-signature", signature);
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("every Java platform has HmacSHA256", e);
        }
    }
}
