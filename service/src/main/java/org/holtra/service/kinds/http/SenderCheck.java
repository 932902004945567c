package org.holtra.service.kinds.http;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.cert.X509Certificate;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.function.UnaryOperator;
import org.holtra.service.httpclient.HttpCredential;
import org.holtra.service.tls.SenderCertificate;

/** Whether a sender may send, by the inlet's credential. Secrets are compared in a time that does not depend on them. */
final class SenderCheck {

    private SenderCheck() {}

    /**
     * Where a request may show a secret; each but the last gives the value of a name, or null.
     *
     * @param query parameters, decoded
     * @param path named segments
     * @param certificates the sender's, as TLS has them; gives null if it showed none
     */
    record Shown(
            UnaryOperator<String> header,
            UnaryOperator<String> query,
            UnaryOperator<String> path,
            Supplier<X509Certificate[]> certificates) {}

    /** What is wrong with the request, or empty if the sender may send. */
    static Optional<String> refusal(HttpCredential credential, Shown shown, byte[] body, Instant now) {
        UnaryOperator<String> header = shown.header;
        return switch (credential) {
            case HttpCredential.Bearer(String token) ->
                same(header.apply("Authorization"), "Bearer ", token)
                        ? Optional.empty()
                        : Optional.of(
                                "the header Authorization must be the word Bearer, a space and the inlet's token");
            case HttpCredential.Basic(String user, String password) ->
                same(header.apply("Authorization"), "Basic ", HttpCredential.Basic.encoded(user, password))
                        ? Optional.empty()
                        : Optional.of("the inlet wants its user and password by HTTP basic authentication");
            case HttpCredential.Header(String name, String value) ->
                same(header.apply(name), "", value)
                        ? Optional.empty()
                        : Optional.of("the header " + name + " must carry the inlet's key");
            case HttpCredential.Signature(String secret) -> WebhookSignature.refusal(secret, header, body, now);
            case HttpCredential.Query(String name, String value) ->
                same(shown.query.apply(name), "", value)
                        ? Optional.empty()
                        : Optional.of("the query parameter " + name + " must carry the inlet's key");
            case HttpCredential.PathPart(String value) ->
                same(shown.path.apply(InletPath.SECRET), "", value)
                        ? Optional.empty()
                        : Optional.of("the path must hold the inlet's secret");
            case HttpCredential.Authority(List<X509Certificate> authorities, String name) ->
                SenderCertificate.refusal(shown.certificates.get(), authorities, name, now);
            case HttpCredential.Certificate ignored ->
                Optional.of("the inlet's credential is a certificate to show, and can check nobody");
        };
    }

    /** What a 401 names as the way in (RFC 9110, section 11.6.1). */
    static String challenge(HttpCredential credential) {
        return switch (credential) {
            case HttpCredential.Basic ignored -> "Basic realm=\"inlet\"";
            case HttpCredential.Signature ignored -> "Signature realm=\"inlet\"";
            case HttpCredential.Header(String name, String ignored) -> "Key realm=\"inlet\", header=\"" + name + "\"";
            case HttpCredential.Query(String name, String ignored) -> "Key realm=\"inlet\", parameter=\"" + name + "\"";
            case HttpCredential.PathPart ignored -> "Path realm=\"inlet\"";
            case HttpCredential.Authority ignored -> "Certificate realm=\"inlet\"";
            case HttpCredential.Certificate ignored -> "Certificate realm=\"inlet\"";
            case HttpCredential.Bearer ignored -> "Bearer realm=\"inlet\"";
        };
    }

    private static boolean same(String given, String scheme, String secret) {
        if (given == null || !given.regionMatches(true, 0, scheme, 0, scheme.length())) {
            return false;
        }
        return MessageDigest.isEqual(
                given.substring(scheme.length()).strip().getBytes(StandardCharsets.UTF_8),
                secret.getBytes(StandardCharsets.UTF_8));
    }
}
