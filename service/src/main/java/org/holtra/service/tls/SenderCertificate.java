package org.holtra.service.tls;

import java.security.GeneralSecurityException;
import java.security.cert.CertPathValidator;
import java.security.cert.CertPathValidatorException;
import java.security.cert.CertPathValidatorException.BasicReason;
import java.security.cert.CertificateFactory;
import java.security.cert.CertificateParsingException;
import java.security.cert.PKIXParameters;
import java.security.cert.TrustAnchor;
import java.security.cert.X509Certificate;
import java.time.Instant;
import java.util.Arrays;
import java.util.Collection;
import java.util.Date;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import javax.naming.InvalidNameException;
import javax.naming.ldap.LdapName;

/**
 * Whether the certificate that a sender showed is one that an inlet takes: signed by its authority, valid now, made for clients,
 * and of the wanted name (RFC 5280). That the sender holds its key, TLS has made sure of.
 */
public final class SenderCertificate {

    private static final String FOR_CLIENTS = "1.3.6.1.5.5.7.3.2";
    private static final String FOR_ANYTHING = "2.5.29.37.0";

    private SenderCertificate() {}

    /**
     * What is wrong with it; empty if it is taken.
     *
     * @param chain the sender's first; null or empty if it showed none
     * @param authorities those that may have signed it, or the sender's certificate itself
     * @param name that it must have, as its common name or one of its alternative names; empty for any
     */
    public static Optional<String> refusal(
            X509Certificate[] chain, List<X509Certificate> authorities, String name, Instant now) {
        if (chain == null || chain.length == 0) {
            return Optional.of("the sender showed no certificate; the inlet wants one of its authority");
        }
        X509Certificate own = chain[0];
        String whose = "the certificate of " + own.getSubjectX500Principal().getName();
        if (now.isAfter(own.getNotAfter().toInstant())) {
            return Optional.of(whose + " has expired: it was valid until "
                    + own.getNotAfter().toInstant());
        }
        if (now.isBefore(own.getNotBefore().toInstant())) {
            return Optional.of(
                    whose + " is not valid yet: it begins " + own.getNotBefore().toInstant());
        }
        try {
            if (own.getExtendedKeyUsage() != null
                    && !own.getExtendedKeyUsage().contains(FOR_CLIENTS)
                    && !own.getExtendedKeyUsage().contains(FOR_ANYTHING)) {
                return Optional.of(whose + " is made for servers, not for clients");
            }
            Optional<String> unsigned = unsigned(chain, authorities, whose, now);
            if (unsigned.isPresent()) {
                return unsigned;
            }
            Set<String> names = names(own);
            return name.isEmpty() || names.contains(name)
                    ? Optional.empty()
                    : Optional.of(whose + " is for " + String.join(", ", names) + "; the inlet wants " + name);
        } catch (GeneralSecurityException e) {
            return Optional.of(whose + " cannot be read: " + e.getMessage());
        }
    }

    private static Optional<String> unsigned(
            X509Certificate[] chain, List<X509Certificate> authorities, String whose, Instant now)
            throws GeneralSecurityException {
        // A sender may send its authority along; the validator wants the path to end before it.
        List<X509Certificate> path = Arrays.stream(chain)
                .takeWhile(one -> !authorities.contains(one))
                .toList();
        if (path.isEmpty()) {
            return Optional.empty();
        }
        PKIXParameters parameters = new PKIXParameters(authorities.stream()
                .map(authority -> new TrustAnchor(authority, null))
                .collect(Collectors.toSet()));
        parameters.setRevocationEnabled(false);
        parameters.setDate(Date.from(now));
        try {
            CertPathValidator.getInstance("PKIX")
                    .validate(CertificateFactory.getInstance("X.509").generateCertPath(path), parameters);
            return Optional.empty();
        } catch (CertPathValidatorException e) {
            return Optional.of(
                    e.getReason() == BasicReason.EXPIRED
                            ? whose + " hangs on one that has expired"
                            : whose + " is signed by "
                                    + chain[0].getIssuerX500Principal().getName()
                                    + ", which is not the inlet's authority");
        }
    }

    /** The common name, and the alternative names that are text. */
    private static Set<String> names(X509Certificate certificate) throws CertificateParsingException {
        Set<String> names = new LinkedHashSet<>();
        try {
            new LdapName(certificate.getSubjectX500Principal().getName())
                    .getRdns().stream()
                            .filter(part -> part.getType().equalsIgnoreCase("CN"))
                            .forEach(part -> names.add(String.valueOf(part.getValue())));
        } catch (InvalidNameException e) {
            throw new CertificateParsingException("its subject is no name", e);
        }
        Collection<List<?>> alternatives = certificate.getSubjectAlternativeNames();
        if (alternatives != null) {
            alternatives.stream()
                    .map(one -> one.get(1))
                    .filter(String.class::isInstance)
                    .forEach(text -> names.add((String) text));
        }
        return names;
    }
}
