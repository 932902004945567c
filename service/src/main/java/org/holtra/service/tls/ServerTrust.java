package org.holtra.service.tls;

import java.net.Socket;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.cert.CertificateException;
import java.security.cert.CertificateExpiredException;
import java.security.cert.CertificateNotYetValidException;
import java.security.cert.CertificateParsingException;
import java.security.cert.X509Certificate;
import java.util.Arrays;
import java.util.Collection;
import java.util.List;
import java.util.stream.Collectors;
import javax.net.ssl.SSLEngine;
import javax.net.ssl.SSLSocket;
import javax.net.ssl.TrustManagerFactory;
import javax.net.ssl.X509ExtendedTrustManager;

/**
 * Which servers are trusted: those of the authorities that this machine trusts, and of the inlet's or outlet's own. What is wrong with
 * a certificate is said in words.
 */
final class ServerTrust extends X509ExtendedTrustManager {

    /** A server's certificate that is not trusted. */
    static final class Untrusted extends CertificateException {

        private static final long serialVersionUID = 1L;
        private final String mend;
        private final transient X509Certificate authority;

        Untrusted(String words, String mend, X509Certificate authority, Exception cause) {
            super(words, cause);
            this.mend = mend;
            this.authority = authority;
        }

        String mend() {
            return mend;
        }

        /** What would have to be trusted; null if something else is wrong. */
        X509Certificate authority() {
            return authority;
        }
    }

    private static final int DNS_NAME = 2;
    private static final int IP_ADDRESS = 7;

    private final X509ExtendedTrustManager machine;
    private final X509ExtendedTrustManager own;

    private ServerTrust(X509ExtendedTrustManager machine, X509ExtendedTrustManager own) {
        this.machine = machine;
        this.own = own;
    }

    /** @param authorities trusted beside those of this machine */
    static ServerTrust of(List<X509Certificate> authorities) throws GeneralSecurityException {
        KeyStore store = null;
        if (!authorities.isEmpty()) {
            store = KeyStore.getInstance("PKCS12");
            try {
                store.load(null, null);
            } catch (java.io.IOException e) {
                throw new GeneralSecurityException(e);
            }
            for (X509Certificate authority : authorities) {
                store.setCertificateEntry(Integer.toString(store.size()), authority);
            }
        }
        return new ServerTrust(Machine.TRUST, store == null ? null : manager(store));
    }

    /** The authorities that this machine trusts, read once for all outlets. */
    private static final class Machine {

        private static final X509ExtendedTrustManager TRUST = read();

        private static X509ExtendedTrustManager read() {
            try {
                return manager(null);
            } catch (GeneralSecurityException e) {
                throw new IllegalStateException("the authorities that this machine trusts cannot be read", e);
            }
        }
    }

    private static X509ExtendedTrustManager manager(KeyStore store) throws GeneralSecurityException {
        TrustManagerFactory factory = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
        factory.init(store);
        return Arrays.stream(factory.getTrustManagers())
                .filter(X509ExtendedTrustManager.class::isInstance)
                .map(X509ExtendedTrustManager.class::cast)
                .findFirst()
                .orElseThrow();
    }

    private interface Look {
        void at(X509ExtendedTrustManager trust) throws CertificateException;
    }

    private void check(X509Certificate[] chain, String host, Look look) throws CertificateException {
        if (own != null) {
            try {
                look.at(own);
                return;
            } catch (CertificateException e) {
                if (!isUnknownAuthority(e)) {
                    throw untrusted(chain, host, e);
                }
            }
        }
        try {
            look.at(machine);
        } catch (CertificateException e) {
            throw untrusted(chain, host, e);
        }
    }

    private static boolean isUnknownAuthority(CertificateException e) {
        return String.valueOf(e.getMessage()).contains("PKIX path building failed");
    }

    private static Untrusted untrusted(X509Certificate[] chain, String host, CertificateException e) {
        X509Certificate leaf = chain[0];
        try {
            leaf.checkValidity();
        } catch (CertificateExpiredException expired) {
            return new Untrusted(
                    "its certificate has expired: it was valid until "
                            + leaf.getNotAfter().toInstant(),
                    "Ask who runs the server to renew its certificate.",
                    null,
                    e);
        } catch (CertificateNotYetValidException early) {
            return new Untrusted(
                    "its certificate is not valid yet: it begins "
                            + leaf.getNotBefore().toInstant(),
                    "Look at the clock of this machine; else ask who runs the server.",
                    null,
                    e);
        }
        if (isUnknownAuthority(e)) {
            return new Untrusted(
                    "its certificate is signed by an authority this machine does not trust: " + name(leaf),
                    "Trust this authority here (the setting authority), if the fingerprint is the one that its"
                            + " owner tells you.",
                    chain[chain.length - 1],
                    e);
        }
        List<String> names = names(leaf);
        if (host != null && !names.isEmpty() && isAboutTheName(e)) {
            return new Untrusted(
                    "its certificate is for " + String.join(", ", names) + ", not for " + host,
                    "Write one of these names in the address, or ask for a certificate of this name.",
                    null,
                    e);
        }
        return new Untrusted(
                "its certificate is not as it should be: " + e.getMessage(),
                "Ask who runs the server to renew its certificate, for this very name.",
                null,
                e);
    }

    private static boolean isAboutTheName(CertificateException e) {
        String said = String.valueOf(e.getMessage());
        return said.startsWith("No name matching") || said.startsWith("No subject alternative");
    }

    private static String name(X509Certificate leaf) {
        return leaf.getIssuerX500Principal().equals(leaf.getSubjectX500Principal())
                ? "itself, " + leaf.getSubjectX500Principal().getName()
                : leaf.getIssuerX500Principal().getName();
    }

    private static List<String> names(X509Certificate leaf) {
        try {
            Collection<List<?>> all = leaf.getSubjectAlternativeNames();
            return all == null
                    ? List.of(leaf.getSubjectX500Principal().getName())
                    : all.stream()
                            .filter(one -> one.getFirst().equals(DNS_NAME)
                                    || one.getFirst().equals(IP_ADDRESS))
                            .map(one -> String.valueOf(one.get(1)))
                            .collect(Collectors.toList());
        } catch (CertificateParsingException e) {
            return List.of();
        }
    }

    private static String host(Socket socket) {
        return socket instanceof SSLSocket secure && secure.getHandshakeSession() != null
                ? secure.getHandshakeSession().getPeerHost()
                : null;
    }

    @Override
    public void checkServerTrusted(X509Certificate[] chain, String type, Socket socket) throws CertificateException {
        check(chain, host(socket), trust -> trust.checkServerTrusted(chain, type, socket));
    }

    @Override
    public void checkServerTrusted(X509Certificate[] chain, String type, SSLEngine engine) throws CertificateException {
        check(chain, engine.getPeerHost(), trust -> trust.checkServerTrusted(chain, type, engine));
    }

    @Override
    public void checkServerTrusted(X509Certificate[] chain, String type) throws CertificateException {
        check(chain, null, trust -> trust.checkServerTrusted(chain, type));
    }

    @Override
    public void checkClientTrusted(X509Certificate[] chain, String type, Socket socket) throws CertificateException {
        throw new CertificateException("a client has no clients");
    }

    @Override
    public void checkClientTrusted(X509Certificate[] chain, String type, SSLEngine engine) throws CertificateException {
        throw new CertificateException("a client has no clients");
    }

    @Override
    public void checkClientTrusted(X509Certificate[] chain, String type) throws CertificateException {
        throw new CertificateException("a client has no clients");
    }

    @Override
    public X509Certificate[] getAcceptedIssuers() {
        return machine.getAcceptedIssuers();
    }
}
