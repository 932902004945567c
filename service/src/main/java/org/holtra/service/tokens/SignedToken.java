package org.holtra.service.tokens;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.time.Duration;
import java.time.Instant;
import java.util.Base64;
import java.util.HashMap;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;
import org.holtra.core.text.DurationText;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialForm;

/**
 * A token of one's own making: a text with an end, signed by HMAC-SHA256 (RFC 2104). Its templates know <code>${expires}</code> in
 * seconds since 1970, <code>${resource}</code>, <code>${keyName}</code> and, in the token, <code>${signature}</code> in base64; each
 * with {@code |url} behind its name percent-encoded. <code>\\n</code> is a line break.
 */
final class SignedToken {

    private static final Duration USUAL_LIFETIME = Duration.ofHours(1);
    private static final Pattern HOLE = Pattern.compile("\\$\\{([a-zA-Z]+)(\\|url)?}");
    private static final Set<String> KNOWN = Set.of("expires", "resource", "keyName");

    private SignedToken() {}

    /**
     * @param signed whether the signature is known where it stands
     * @throws CredentialForm.Unfit if it names something else
     */
    static void check(String field, String template, boolean signed) throws CredentialForm.Unfit {
        Matcher holes = HOLE.matcher(template);
        boolean hasSignature = false;
        while (holes.find()) {
            String name = holes.group(1);
            hasSignature |= name.equals("signature");
            if (!KNOWN.contains(name) && !(signed && name.equals("signature"))) {
                throw new CredentialForm.Unfit(
                        field,
                        "${" + name + "} is not known here; there are expires, resource and keyName"
                                + (signed ? " and signature" : ""));
            }
        }
        if (signed && !hasSignature) {
            throw new CredentialForm.Unfit(field, "there is no ${signature} in it");
        }
    }

    static LiveToken of(Credential credential, Instant now) {
        String lifetime = credential.field("lifetime");
        Instant expires = now.plus(lifetime.isEmpty() ? USUAL_LIFETIME : DurationText.parse(lifetime));
        Map<String, String> values = new HashMap<>();
        values.put("expires", Long.toString(expires.getEpochSecond()));
        values.put("resource", credential.field("resource"));
        values.put("keyName", credential.field("keyName"));
        String text = filled(credential.field("text").replace("\\n", "\n"), values);
        values.put("signature", signature(text, credential.field("key")));
        return new LiveToken(filled(credential.field("token"), values), expires, now, LiveToken.AS_HEADER);
    }

    private static String filled(String template, Map<String, String> values) {
        return HOLE.matcher(template).replaceAll(hole -> {
            String value = values.getOrDefault(hole.group(1), "");
            return Matcher.quoteReplacement(
                    hole.group(2) == null ? value : URLEncoder.encode(value, StandardCharsets.UTF_8));
        });
    }

    private static String signature(String text, String key) {
        try {
            Mac mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(bytes(key), "HmacSHA256"));
            return Base64.getEncoder().encodeToString(mac.doFinal(text.getBytes(StandardCharsets.UTF_8)));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("every Java has HmacSHA256", e);
        }
    }

    private static byte[] bytes(String key) {
        try {
            return Base64.getDecoder().decode(key);
        } catch (IllegalArgumentException e) {
            return key.getBytes(StandardCharsets.UTF_8);
        }
    }
}
