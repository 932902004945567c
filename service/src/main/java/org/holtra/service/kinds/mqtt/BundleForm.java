package org.holtra.service.kinds.mqtt;

import java.security.PrivateKey;
import java.security.cert.X509Certificate;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialForm;
import org.holtra.service.credentials.PastedSecret;
import org.holtra.service.tls.KeyPairs;
import org.holtra.service.tls.PemText;

/**
 * The form {@code bundle}: the PEM texts that whoever runs a broker hands out, pasted together in any order (RFC 7468). The
 * certificate of the client is the one that the key belongs to; the others are those between it and its authority, or authorities
 * that sign the broker's.
 */
final class BundleForm implements CredentialForm {

    static final String WORD = "bundle";

    private static final int LONGEST = 131_072;
    private static final List<Field> FIELDS = List.of(
            new Field("pem", "Client certificate, its key and authorities (PEM)", true, Shape.PEM),
            new Field("user", "User (if the broker wants one too)", false, Shape.OPTIONAL_LINE),
            new Field("password", "Password (if the broker wants one too)", true, Shape.OPTIONAL_LINE));

    @Override
    public String word() {
        return WORD;
    }

    @Override
    public String about() {
        return "shown by TLS (client certificate), with the authorities that are trusted";
    }

    @Override
    public List<Field> fields() {
        return FIELDS;
    }

    @Override
    public Checked check(Map<String, String> pasted) throws Unfit {
        String text = pasted.getOrDefault("pem", "").replace("\r", "").strip();
        if (text.isEmpty()) {
            throw new Unfit("pem", "the certificates are missing");
        }
        if (text.length() > LONGEST) {
            throw new Unfit("pem", "the certificates are longer than " + LONGEST + " characters");
        }
        List<String> notices = new ArrayList<>();
        Map<String, String> values = new LinkedHashMap<>(apart(text, notices));
        values.put("user", pasted.getOrDefault("user", "").strip());
        String password = pasted.getOrDefault("password", "");
        values.put("password", password.isEmpty() ? "" : PastedSecret.checked("password", password, notices));
        return new Checked(credential(values), List.copyOf(notices));
    }

    private static Map<String, String> apart(String text, List<String> notices) throws Unfit {
        List<X509Certificate> all =
                text.contains("BEGIN CERTIFICATE") ? read(() -> PemText.certificates(text)) : List.of();
        if (!text.contains("PRIVATE KEY")) {
            if (all.isEmpty()) {
                throw new Unfit(
                        "pem", "there is neither a certificate nor a private key in it, with BEGIN and END lines");
            }
            notices.add("There is no private key in it: all certificates are taken for authorities that are trusted.");
            return Map.of("authority", written(all));
        }
        PrivateKey key = read(() -> PemText.key(text));
        X509Certificate own = all.stream()
                .filter(one -> KeyPairs.belong(one.getPublicKey(), key))
                .findFirst()
                .orElseThrow(() -> new Unfit(
                        "pem",
                        all.isEmpty()
                                ? "there is a private key in it and no certificate"
                                : "none of the " + all.size()
                                        + " certificates in it is the one that the key belongs to"));
        List<X509Certificate> others =
                all.stream().filter(one -> !one.equals(own)).toList();
        notices.add("The client's certificate is that of "
                + own.getSubjectX500Principal().getName() + ", valid until "
                + own.getNotAfter().toInstant() + ".");
        if (!others.isEmpty()) {
            notices.add("Trusted besides: "
                    + others.stream()
                            .map(one -> one.getSubjectX500Principal().getName())
                            .collect(Collectors.joining("; "))
                    + ".");
        }
        return Map.of("certificate", written(chain(own, others)), "key", keyText(text), "authority", written(others));
    }

    /** The certificate, and each that signed the one before it. */
    private static List<X509Certificate> chain(X509Certificate own, List<X509Certificate> others) {
        List<X509Certificate> chain = new ArrayList<>(List.of(own));
        Optional<X509Certificate> next = Optional.of(own);
        while (next.isPresent()) {
            X509Certificate signed = next.get();
            next = others.stream()
                    .filter(one -> !chain.contains(one)
                            && one.getSubjectX500Principal().equals(signed.getIssuerX500Principal()))
                    .findFirst();
            next.ifPresent(chain::add);
        }
        return chain;
    }

    /** As it was pasted: what cannot be written anew as it was is not. */
    private static String keyText(String text) {
        int begin = text.lastIndexOf("-----BEGIN", text.indexOf("PRIVATE KEY-----"));
        int end = text.indexOf("-----END", begin);
        return text.substring(begin, text.indexOf("-----", end + 8) + 5) + "\n";
    }

    private static String written(List<X509Certificate> certificates) {
        return certificates.stream().map(PemText::of).collect(Collectors.joining());
    }

    private static <T> T read(Supplier<T> reading) throws Unfit {
        try {
            return reading.get();
        } catch (IllegalArgumentException e) {
            throw new Unfit("pem", e.getMessage());
        }
    }

    @Override
    public Credential credential(Map<String, String> values) {
        Set<String> secret = new TreeSet<>();
        List.of("key", "password").forEach(field -> {
            if (!values.getOrDefault(field, "").isEmpty()) {
                secret.add(field);
            }
        });
        return new Credential(WORD, values, secret);
    }
}
