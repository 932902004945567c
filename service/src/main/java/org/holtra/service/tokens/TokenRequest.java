package org.holtra.service.tokens;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.Map;
import org.holtra.service.credentials.Credential;

/** What each form of credential says to ask for a token. */
final class TokenRequest {

    private TokenRequest() {}

    /**
     * @param refresh what came with the token before; null if there is none
     * @throws TokenFailure if it cannot ask without its owner
     */
    static Map<String, String> of(TokenForm form, Credential credential, String refresh, Instant now)
            throws TokenFailure {
        Map<String, String> fields = new LinkedHashMap<>();
        switch (form) {
            case CLIENT -> {
                fields.put("grant_type", "client_credentials");
                fields.put("scope", credential.field("scope"));
                fields.put("audience", credential.field("audience"));
            }
            case ASSERTION -> {
                fields.put("grant_type", "urn:ietf:params:oauth:grant-type:jwt-bearer");
                fields.put("assertion", Assertion.of(credential, now));
                fields.put("scope", credential.field("scope"));
            }
            case GRANT -> {
                if (refresh == null) {
                    throw new TokenFailure(
                            TokenFailure.Kind.REVOKED, "its owner has not consented yet; send them a link to do so");
                }
                fields.put("grant_type", "refresh_token");
                fields.put("refresh_token", refresh);
                client(credential, fields);
            }
            case SIGNED -> throw new IllegalArgumentException("a signed token is asked for nowhere");
        }
        return fields;
    }

    /** The code that came back with the owner, exchanged (RFC 6749, section 4.1.3; RFC 7636, section 4.5). */
    static Map<String, String> code(Credential credential, String code, String verifier, String redirect) {
        Map<String, String> fields = new LinkedHashMap<>();
        fields.put("grant_type", "authorization_code");
        fields.put("code", code);
        fields.put("redirect_uri", redirect);
        fields.put("code_verifier", verifier);
        client(credential, fields);
        return fields;
    }

    /** A public client names itself in the body. */
    private static void client(Credential credential, Map<String, String> fields) {
        if (credential.field("clientSecret").isEmpty()) {
            fields.put("client_id", credential.field("clientId"));
        }
    }

    /** Client id and secret for basic authentication, form-encoded before (RFC 6749, section 2.3.1); null without a secret. */
    static String basic(TokenForm form, Credential credential) {
        boolean has = (form == TokenForm.CLIENT || form == TokenForm.GRANT)
                && !credential.field("clientSecret").isEmpty();
        return has
                ? Base64.getEncoder()
                        .encodeToString((encoded(credential.field("clientId")) + ":"
                                        + encoded(credential.field("clientSecret")))
                                .getBytes(StandardCharsets.UTF_8))
                : null;
    }

    private static String encoded(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8);
    }
}
