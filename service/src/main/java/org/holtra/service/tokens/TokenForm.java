package org.holtra.service.tokens;

import java.net.URI;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.holtra.core.text.DurationText;
import org.holtra.service.credentials.CredentialForm;
import org.holtra.service.credentials.PastedSecret;
import org.holtra.service.tls.PemText;

/** The forms of credential that are exchanged for a token, or make one, before anything is sent. */
public enum TokenForm implements CredentialForm {

    /** OAuth 2.0 client credentials (RFC 6749, section 4.4). */
    CLIENT(
            "client",
            "exchanged for a token: OAuth 2.0 client credentials",
            Fields.URL,
            new Field("clientId", "Client id", false),
            new Field("clientSecret", "Client secret", true),
            Fields.SCOPE,
            Fields.AUDIENCE) {
        @Override
        Map<String, String> values(Map<String, String> given, List<String> notices) throws Unfit {
            return filled(
                    "tokenUrl",
                    address("tokenUrl", given),
                    "clientId",
                    required("clientId", given),
                    "clientSecret",
                    PastedSecret.checked("clientSecret", given.get("clientSecret"), notices),
                    "scope",
                    given.get("scope"),
                    "audience",
                    given.get("audience"));
        }
    },

    /** A signed assertion (RFC 7523). */
    ASSERTION(
            "assertion",
            "exchanged for a token: a JWT signed with a key",
            Fields.URL,
            new Field("issuer", "Issuer", false),
            new Field("subject", "Subject (the issuer if empty)", false, Shape.OPTIONAL_LINE),
            new Field("audience", "Audience (the token address if empty)", false, Shape.OPTIONAL_LINE),
            new Field("keyId", "Key id", false, Shape.OPTIONAL_LINE),
            Fields.SCOPE,
            new Field("key", "Private key (PEM)", true, Shape.PEM)) {
        @Override
        Map<String, String> values(Map<String, String> given, List<String> notices) throws Unfit {
            String key = required("key", given);
            try {
                String algorithm = PemText.key(key).getAlgorithm();
                if (!algorithm.equals("RSA") && !algorithm.equals("EC")) {
                    throw new Unfit(
                            "key", "a key of the kind " + algorithm + " cannot sign an assertion; RSA and EC can");
                }
            } catch (IllegalArgumentException e) {
                throw new Unfit("key", e.getMessage());
            }
            return filled(
                    "tokenUrl",
                    address("tokenUrl", given),
                    "issuer",
                    required("issuer", given),
                    "subject",
                    given.get("subject"),
                    "audience",
                    given.get("audience"),
                    "keyId",
                    given.get("keyId"),
                    "scope",
                    given.get("scope"),
                    "key",
                    key);
        }
    },

    /** A token of the sender's own making: a text and its HMAC-SHA256, with an end. */
    SIGNED(
            "signed",
            "makes a token that expires: a text signed with a key (HMAC-SHA256)",
            new Field("text", "Text that is signed", false),
            new Field("token", "Value of the header Authorization", false),
            new Field("lifetime", "Lifetime (1h if empty)", false, Shape.OPTIONAL_LINE),
            new Field("keyName", "Name of the key", false, Shape.OPTIONAL_LINE),
            new Field("resource", "Resource", false, Shape.OPTIONAL_LINE),
            new Field("key", "Key (base64 or text)", true)) {
        @Override
        Map<String, String> values(Map<String, String> given, List<String> notices) throws Unfit {
            String lifetime = given.getOrDefault("lifetime", "").strip();
            if (!lifetime.isEmpty() && !lifetime.matches(DurationText.PATTERN)) {
                throw new Unfit("lifetime", "a lifetime is a span such as 30m or 12h");
            }
            String text = required("text", given);
            String token = required("token", given);
            SignedToken.check("text", text, false);
            SignedToken.check("token", token, true);
            return filled(
                    "text",
                    text,
                    "token",
                    token,
                    "lifetime",
                    lifetime,
                    "keyName",
                    given.get("keyName"),
                    "resource",
                    given.get("resource"),
                    "key",
                    PastedSecret.checked("key", given.get("key"), notices));
        }
    },

    /** Consent of the owner of what the token gives access to (RFC 6749, section 4.1, with RFC 7636). */
    GRANT(
            "grant",
            "exchanged for a token once its owner has consented: OAuth 2.0 authorization code",
            new Field("authorizeUrl", "Authorization address", false),
            Fields.URL,
            new Field("clientId", "Client id", false),
            new Field("clientSecret", "Client secret (none for a public client)", true, Shape.OPTIONAL_LINE),
            Fields.SCOPE,
            new Field("owner", "Owner, as the consent page names them", false, Shape.OPTIONAL_LINE)) {
        @Override
        Map<String, String> values(Map<String, String> given, List<String> notices) throws Unfit {
            String secret = given.getOrDefault("clientSecret", "").strip();
            return filled(
                    "authorizeUrl",
                    address("authorizeUrl", given),
                    "tokenUrl",
                    address("tokenUrl", given),
                    "clientId",
                    required("clientId", given),
                    "clientSecret",
                    secret.isEmpty() ? "" : PastedSecret.checked("clientSecret", secret, notices),
                    "scope",
                    given.get("scope"),
                    "owner",
                    given.get("owner"));
        }
    };

    /** What several forms have. */
    private static final class Fields {
        private static final Field URL = new Field("tokenUrl", "Token address", false);
        private static final Field SCOPE =
                new Field("scope", "Scopes, with spaces between", false, Shape.OPTIONAL_LINE);
        private static final Field AUDIENCE = new Field("audience", "Audience", false, Shape.OPTIONAL_LINE);
    }

    /** Each delivery asks by it. */
    private static final Map<String, TokenForm> BY_NAME =
            Stream.of(values()).collect(Collectors.toMap(form -> form.word, form -> form));

    private final String word;
    private final String about;
    private final List<Field> fields;

    TokenForm(String word, String about, Field... fields) {
        this.word = word;
        this.about = about;
        this.fields = List.of(fields);
    }

    public static Optional<TokenForm> find(String word) {
        return Optional.ofNullable(BY_NAME.get(word));
    }

    abstract Map<String, String> values(Map<String, String> given, List<String> notices) throws Unfit;

    @Override
    public String word() {
        return word;
    }

    @Override
    public String about() {
        return about;
    }

    @Override
    public List<Field> fields() {
        return fields;
    }

    @Override
    public Checked check(Map<String, String> pasted) throws Unfit {
        List<String> notices = new ArrayList<>();
        Map<String, String> given = PastedParts.apart(pasted, fields, notices);
        return new Checked(credential(values(given, notices)), List.copyOf(notices));
    }

    private static String required(String field, Map<String, String> given) throws Unfit {
        String text = given.getOrDefault(field, "").strip();
        if (text.isEmpty()) {
            throw new Unfit(field, "it is missing");
        }
        return text;
    }

    private static String address(String field, Map<String, String> given) throws Unfit {
        String text = required(field, given);
        try {
            URI address = URI.create(text);
            if (address.getHost() != null && List.of("http", "https").contains(address.getScheme())) {
                return text;
            }
        } catch (IllegalArgumentException e) {
            throw new Unfit(field, "this is no address: " + e.getMessage());
        }
        throw new Unfit(field, "an address begins with https://");
    }

    /** Names and values in turn; a null is an empty text. */
    private static Map<String, String> filled(String... pairs) {
        Map<String, String> values = new LinkedHashMap<>();
        for (int i = 0; i < pairs.length; i += 2) {
            values.put(pairs[i], pairs[i + 1] == null ? "" : pairs[i + 1].strip());
        }
        return values;
    }
}
