package org.holtra.service.httpclient;

import java.nio.charset.StandardCharsets;
import java.security.cert.X509Certificate;
import java.util.Base64;
import java.util.List;
import java.util.Optional;
import org.holtra.service.credentials.Credential;
import org.holtra.service.tls.KnownCertificates;

/** A credential in the words of HTTP. */
public sealed interface HttpCredential {

    /** A token in {@code Authorization: Bearer …} (RFC 6750). */
    record Bearer(String token) implements HttpCredential {}

    /** A user and a password in {@code Authorization: Basic …} (RFC 7617). */
    record Basic(String user, String password) implements HttpCredential {

        /** Both as they stand in the header. */
        public static String encoded(String user, String password) {
            return Base64.getEncoder().encodeToString((user + ":" + password).getBytes(StandardCharsets.UTF_8));
        }
    }

    /** A key in a header of this name. */
    record Header(String name, String value) implements HttpCredential {}

    /** A key in a query parameter of this name. */
    record Query(String name, String value) implements HttpCredential {}

    /** A text that nobody guesses, in the place of the path that is named for it. */
    record PathPart(String value) implements HttpCredential {}

    /** A secret that signs bodies (Standard Webhooks): {@code whsec_} and base64. */
    record Signature(String secret) implements HttpCredential {}

    /** A certificate that is shown in the handshake of TLS, with its key; both in PEM. */
    record Certificate(String certificate, String key) implements HttpCredential {}

    /** Who signs the certificates of senders, and the name they must have; empty for any. */
    record Authority(List<X509Certificate> authorities, String name) implements HttpCredential {}

    /** @return empty if it has a form of another kind */
    static Optional<HttpCredential> of(Credential credential) {
        return HttpCredentialForm.find(credential.form()).map(form -> switch (form) {
            case BEARER -> new Bearer(credential.field("token"));
            case BASIC -> new Basic(credential.field("user"), credential.field("password"));
            case HEADER -> new Header(credential.field("name"), credential.field("value"));
            case QUERY -> new Query(credential.field("name"), credential.field("value"));
            case PATH -> new PathPart(credential.field("value"));
            case SIGNATURE -> new Signature(credential.field("secret"));
            case CERTIFICATE -> new Certificate(credential.field("certificate"), credential.field("key"));
            case AUTHORITY ->
                new Authority(KnownCertificates.of(credential.field("authority")), credential.field("name"));
        });
    }
}
