package org.holtra.service.httpclient;

import java.security.PrivateKey;
import java.security.SecureRandom;
import java.security.cert.X509Certificate;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Base64;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Supplier;
import java.util.regex.Pattern;
import org.holtra.service.credentials.CredentialForm;
import org.holtra.service.credentials.PastedSecret;
import org.holtra.service.tls.KeyPairs;
import org.holtra.service.tls.PemText;

/** The forms of credential that HTTP knows. */
public enum HttpCredentialForm implements CredentialForm {
    BEARER("in the header Authorization, after the word Bearer", new Field("token", "Token", true)) {
        @Override
        Map<String, String> values(Map<String, String> pasted, List<String> notices) throws Unfit {
            String secret = secret("token", pasted, notices);
            if (LEADING_BASIC.matcher(secret).find()) {
                throw new Unfit("token", "this begins with `Basic`: give user and password in the form basic instead");
            }
            String token = LEADING_BEARER.matcher(secret).replaceFirst("");
            if (token.isEmpty()) {
                throw new Unfit("token", "there is nothing after the word Bearer");
            }
            if (!token.equals(secret)) {
                notices.add("The word Bearer before the token was removed: Holtra adds it itself, once.");
            }
            if (token.contains(" ")) {
                notices.add("The token contains a space, which tokens do not: was something else pasted with it?");
            }
            return Map.of("token", token);
        }

        @Override
        public Optional<Map<String, String>> generated(SecureRandom random) {
            return Optional.of(Map.of("token", text(random)));
        }
    },

    BASIC(
            "in the header Authorization, by HTTP basic authentication",
            new Field("user", "User", false),
            new Field("password", "Password", true)) {
        @Override
        Map<String, String> values(Map<String, String> pasted, List<String> notices) throws Unfit {
            String user = pasted.getOrDefault("user", "").strip();
            if (user.isEmpty()) {
                throw new Unfit("user", "the user is missing");
            }
            if (user.contains(":")) {
                throw new Unfit("user", "a user cannot contain a colon (RFC 7617)");
            }
            return Map.of("user", user, "password", secret("password", pasted, notices));
        }

        @Override
        public Optional<Map<String, String>> generated(SecureRandom random) {
            return Optional.of(Map.of("user", "sender", "password", text(random)));
        }
    },

    HEADER(
            "in a header of its own",
            new Field("name", "Name of the header", false),
            new Field("value", "Its value", true)) {
        @Override
        Map<String, String> values(Map<String, String> pasted, List<String> notices) throws Unfit {
            String name = fieldName("header", pasted, notices);
            String value = secret("value", pasted, notices);
            if (!HEADER_NAME.matcher(name).matches()) {
                throw new Unfit("name", "`" + name + "` cannot be the name of a header");
            }
            if (name.equalsIgnoreCase("authorization")) {
                String once = value.replaceFirst("(?i)^(bearer|basic)(\\s+\\1)+\\s+", "$1 ");
                if (!once.equals(value)) {
                    notices.add("The scheme word was there more than once and was kept once.");
                    value = once;
                }
                if (!SCHEME.matcher(value).matches()) {
                    notices.add("The value of Authorization has no scheme word, such as Bearer, before it. "
                            + "If it is a token, save it in the form bearer.");
                }
            } else if (value.toLowerCase(Locale.ROOT).startsWith("bearer ")) {
                notices.add("The value begins with Bearer, which belongs in the header Authorization, not in " + name
                        + ".");
            }
            return Map.of("name", name, "value", value);
        }

        @Override
        public Optional<Map<String, String>> generated(SecureRandom random) {
            return Optional.of(Map.of("name", "X-Api-Key", "value", text(random)));
        }
    },

    QUERY(
            "in the query, as a parameter",
            new Field("name", "Name of the parameter", false),
            new Field("value", "Its value", true)) {
        @Override
        Map<String, String> values(Map<String, String> pasted, List<String> notices) throws Unfit {
            return Map.of(
                    "name", fieldName("query parameter", pasted, notices), "value", secret("value", pasted, notices));
        }

        @Override
        public Optional<Map<String, String>> generated(SecureRandom random) {
            return Optional.of(Map.of("name", "key", "value", text(random)));
        }
    },

    PATH("in the path, where the inlet's has {secret}", new Field("value", "Part of the path", true)) {
        @Override
        Map<String, String> values(Map<String, String> pasted, List<String> notices) throws Unfit {
            String value = secret("value", pasted, notices);
            if (!PATH_PART.matcher(value).matches()) {
                throw new Unfit(
                        "value",
                        "write " + SHORTEST_PATH_PART
                                + " or more letters, digits, dashes and underscores: others would have to"
                                + " be encoded, and a shorter part could be guessed");
            }
            return Map.of("value", value);
        }

        @Override
        public Optional<Map<String, String>> generated(SecureRandom random) {
            return Optional.of(Map.of("value", text(random)));
        }
    },

    SIGNATURE("signs each body (Standard Webhooks)", new Field("secret", "Signing secret", true)) {
        @Override
        Map<String, String> values(Map<String, String> pasted, List<String> notices) throws Unfit {
            String secret = secret("secret", pasted, notices);
            String encoded = secret.startsWith(SIGNATURE_PREFIX) ? secret.substring(SIGNATURE_PREFIX.length()) : secret;
            try {
                if (Base64.getDecoder().decode(encoded).length < SHORTEST_SIGNING_SECRET) {
                    throw new Unfit("secret", "the secret is shorter than 16 bytes; Standard Webhooks wants 24 to 64");
                }
            } catch (IllegalArgumentException e) {
                throw new Unfit("secret", "the secret is not base64, with or without whsec_ before it");
            }
            return Map.of("secret", SIGNATURE_PREFIX + encoded);
        }

        @Override
        public Optional<Map<String, String>> generated(SecureRandom random) {
            return Optional.of(
                    Map.of("secret", SIGNATURE_PREFIX + Base64.getEncoder().encodeToString(bytes(random))));
        }
    },

    CERTIFICATE(
            "shown by TLS (client certificate)",
            new Field("certificate", "Certificate (PEM)", false, Shape.PEM),
            new Field("key", "Its private key (PEM)", true, Shape.PEM)) {
        @Override
        Map<String, String> values(Map<String, String> pasted, List<String> notices) throws Unfit {
            String certificate = pem("certificate", pasted);
            String key = pem("key", pasted);
            List<X509Certificate> chain = read("certificate", () -> PemText.certificates(certificate));
            PrivateKey own = read("key", () -> PemText.key(key));
            if (!KeyPairs.belong(chain.getFirst().getPublicKey(), own)) {
                throw new Unfit("key", "this is not the key of the certificate");
            }
            notices.addAll(validity(chain.getFirst()));
            return Map.of("certificate", certificate, "key", key);
        }
    },

    AUTHORITY(
            "senders show a certificate by TLS, signed by this authority",
            new Field("authority", "Certificate of the authority (PEM)", false, Shape.PEM),
            new Field("name", "Name in the senders' certificates (any if empty)", false, Shape.OPTIONAL_LINE)) {
        @Override
        Map<String, String> values(Map<String, String> pasted, List<String> notices) throws Unfit {
            String authority = pem("authority", pasted);
            List<X509Certificate> all = read("authority", () -> PemText.certificates(authority));
            notices.addAll(validity(all.getFirst()));
            return Map.of(
                    "authority",
                    authority,
                    "name",
                    pasted.getOrDefault("name", "").strip());
        }
    };

    private static final Pattern HEADER_NAME = Pattern.compile("[!#$%&'*+.^_`|~0-9A-Za-z-]+");
    private static final Pattern LEADING_BEARER = Pattern.compile("(?i)^(bearer(?:[\\s:]+|$))+");
    private static final Pattern LEADING_BASIC = Pattern.compile("(?i)^(basic\\s+)+");
    private static final Pattern SCHEME = Pattern.compile("^[A-Za-z][A-Za-z0-9-]* +\\S.*");
    private static final String SIGNATURE_PREFIX = "whsec_";
    private static final int SHORTEST_SIGNING_SECRET = 16;
    private static final int SECRET_BYTES = 32;
    private static final int LONGEST_PEM = 65_536;
    private static final int SHORTEST_PATH_PART = 16;
    private static final Pattern PATH_PART = Pattern.compile("[A-Za-z0-9_-]{" + SHORTEST_PATH_PART + ",}");
    private static final Map<String, HttpCredentialForm> BY_NAME = new LinkedHashMap<>();

    static {
        Arrays.stream(values()).forEach(form -> BY_NAME.put(form.word, form));
    }

    private final String word = name().toLowerCase(Locale.ROOT);
    private final String about;
    private final List<Field> fields;

    HttpCredentialForm(String about, Field... fields) {
        this.about = about;
        this.fields = List.of(fields);
    }

    /** Those that a client presents, the usual one first. */
    public static Set<HttpCredentialForm> presented() {
        return EnumSet.complementOf(EnumSet.of(SIGNATURE, PATH, AUTHORITY));
    }

    public static Optional<HttpCredentialForm> find(String word) {
        return Optional.ofNullable(BY_NAME.get(word));
    }

    /** @throws Unfit if no credential can be made of what was pasted */
    abstract Map<String, String> values(Map<String, String> pasted, List<String> notices) throws Unfit;

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

    private static String fieldName(String of, Map<String, String> pasted, List<String> notices) throws Unfit {
        String name = pasted.getOrDefault("name", "").strip();
        if (name.isEmpty()) {
            throw new Unfit("name", "the name of the " + of + " is missing");
        }
        if (name.endsWith(":")) {
            notices.add("The colon after the name was removed.");
            return name.substring(0, name.length() - 1).strip();
        }
        return name;
    }

    private static String secret(String field, Map<String, String> pasted, List<String> notices) throws Unfit {
        return PastedSecret.checked(field, pasted.get(field), notices);
    }

    private static String pem(String field, Map<String, String> pasted) throws Unfit {
        String text = pasted.getOrDefault(field, "").replace("\r", "").strip();
        if (text.isEmpty()) {
            throw new Unfit(field, "the " + field + " is missing");
        }
        if (text.length() > LONGEST_PEM) {
            throw new Unfit(field, "the " + field + " is longer than " + LONGEST_PEM + " characters");
        }
        return text + "\n";
    }

    private static <T> T read(String field, Supplier<T> reading) throws Unfit {
        try {
            return reading.get();
        } catch (IllegalArgumentException e) {
            throw new Unfit(field, e.getMessage());
        }
    }

    private static List<String> validity(X509Certificate certificate) {
        Instant until = certificate.getNotAfter().toInstant();
        return List.of("The certificate of "
                + certificate.getSubjectX500Principal().getName() + " is valid until " + until + ".");
    }

    private static String text(SecureRandom random) {
        return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes(random));
    }

    private static byte[] bytes(SecureRandom random) {
        byte[] bytes = new byte[SECRET_BYTES];
        random.nextBytes(bytes);
        return bytes;
    }

    @Override
    public Checked check(Map<String, String> pasted) throws Unfit {
        List<String> notices = new ArrayList<>();
        return new Checked(credential(values(pasted, notices)), List.copyOf(notices));
    }
}
