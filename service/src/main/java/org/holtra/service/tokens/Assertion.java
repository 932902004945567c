package org.holtra.service.tokens;

import com.nimbusds.jose.JOSEException;
import com.nimbusds.jose.JWSAlgorithm;
import com.nimbusds.jose.JWSHeader;
import com.nimbusds.jose.JWSSigner;
import com.nimbusds.jose.crypto.ECDSASigner;
import com.nimbusds.jose.crypto.RSASSASigner;
import com.nimbusds.jwt.JWTClaimsSet;
import com.nimbusds.jwt.SignedJWT;
import java.security.PrivateKey;
import java.security.interfaces.ECPrivateKey;
import java.time.Duration;
import java.time.Instant;
import java.util.Date;
import java.util.UUID;
import org.holtra.service.credentials.Credential;
import org.holtra.service.tls.PemText;

/** A JWT that asks for a token (RFC 7523, section 3). */
final class Assertion {

    private static final Duration LIVES = Duration.ofMinutes(5);

    private Assertion() {}

    static String of(Credential credential, Instant now) throws TokenFailure {
        PrivateKey key = PemText.key(credential.field("key"));
        String issuer = credential.field("issuer");
        String subject = credential.field("subject");
        String audience = credential.field("audience");
        String keyId = credential.field("keyId");
        JWTClaimsSet claims = new JWTClaimsSet.Builder()
                .issuer(issuer)
                .subject(subject.isEmpty() ? issuer : subject)
                .audience(audience.isEmpty() ? credential.field("tokenUrl") : audience)
                .issueTime(Date.from(now))
                .expirationTime(Date.from(now.plus(LIVES)))
                .jwtID(UUID.randomUUID().toString())
                .build();
        try {
            boolean elliptic = key instanceof ECPrivateKey;
            JWSSigner signer = elliptic ? new ECDSASigner((ECPrivateKey) key) : new RSASSASigner(key);
            JWSAlgorithm algorithm =
                    elliptic ? signer.supportedJWSAlgorithms().iterator().next() : JWSAlgorithm.RS256;
            SignedJWT jwt = new SignedJWT(
                    new JWSHeader.Builder(algorithm)
                            .keyID(keyId.isEmpty() ? null : keyId)
                            .build(),
                    claims);
            jwt.sign(signer);
            return jwt.serialize();
        } catch (JOSEException e) {
            throw new TokenFailure(TokenFailure.Kind.BLOCKED, "the assertion cannot be signed: " + e.getMessage());
        }
    }
}
