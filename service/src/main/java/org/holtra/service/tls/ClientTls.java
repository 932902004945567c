package org.holtra.service.tls;

import java.io.IOException;
import java.net.Socket;
import java.net.SocketTimeoutException;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.PrivateKey;
import java.security.cert.X509Certificate;
import java.util.Arrays;
import java.util.List;
import javax.net.ssl.KeyManager;
import javax.net.ssl.KeyManagerFactory;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLException;
import javax.net.ssl.SSLSocket;
import javax.net.ssl.SSLSocketFactory;
import javax.net.ssl.TrustManager;
import javax.net.ssl.X509ExtendedKeyManager;
import org.apache.hc.client5.http.ssl.DefaultClientTlsStrategy;
import org.apache.hc.client5.http.ssl.TlsSocketStrategy;

/** How an inlet or outlet that connects to a server speaks TLS: whom it trusts, and the certificate it shows. */
public final class ClientTls {

    private static final char[] IN_MEMORY = new char[0];
    private static final int WAIT_FOR_ALERT_MILLIS = 250;

    private final SSLContext context;
    private final ServerTrust trust;
    private final ClientKeys keys;

    private ClientTls(SSLContext context, ServerTrust trust, ClientKeys keys) {
        this.context = context;
        this.trust = trust;
        this.keys = keys;
    }

    /**
     * @param authority certificates in PEM, trusted beside this machine's; null for none
     * @param certificate the client's own, with those between it and its authority, in PEM; null if it has none
     * @param key the certificate's private key, in PEM; null if there is no certificate
     * @throws IllegalArgumentException if one of them cannot be read
     */
    public static ClientTls of(String authority, String certificate, String key) {
        try {
            ServerTrust trust = ServerTrust.of(authority == null ? List.of() : PemText.certificates(authority));
            ClientKeys keys = new ClientKeys(
                    certificate == null ? null : own(PemText.certificates(certificate), PemText.key(key)));
            SSLContext context = SSLContext.getInstance("TLS");
            context.init(new KeyManager[] {keys}, new TrustManager[] {trust}, null);
            return new ClientTls(context, trust, keys);
        } catch (GeneralSecurityException e) {
            throw new IllegalArgumentException("TLS cannot be prepared: " + e.getMessage(), e);
        }
    }

    private static X509ExtendedKeyManager own(List<X509Certificate> chain, PrivateKey key)
            throws GeneralSecurityException {
        KeyStore store = KeyStore.getInstance("PKCS12");
        try {
            store.load(null, null);
        } catch (IOException e) {
            throw new GeneralSecurityException(e);
        }
        store.setKeyEntry("own", key, IN_MEMORY, chain.toArray(X509Certificate[]::new));
        KeyManagerFactory factory = KeyManagerFactory.getInstance(KeyManagerFactory.getDefaultAlgorithm());
        factory.init(store, IN_MEMORY);
        return Arrays.stream(factory.getKeyManagers())
                .filter(X509ExtendedKeyManager.class::isInstance)
                .map(X509ExtendedKeyManager.class::cast)
                .findFirst()
                .orElseThrow();
    }

    public boolean hasCertificate() {
        return keys.hasCertificate();
    }

    /** Whom it trusts, for clients that make their own context. */
    public TrustManager trust() {
        return trust;
    }

    /** What it shows, for clients that make their own context. */
    public KeyManager keys() {
        return keys;
    }

    /** For clients that take sockets. The host's name is for them to check. */
    public SSLSocketFactory sockets() {
        return context.getSocketFactory();
    }

    /** For the HTTP client that sends. */
    public TlsSocketStrategy strategy() {
        TlsSocketStrategy usual = new DefaultClientTlsStrategy(context);
        return (socket, target, port, attachment, around) -> {
            SSLSocket secured = (SSLSocket) usual.upgrade(socket, target, port, attachment, around);
            waitForAlert(secured);
            return secured;
        };
    }

    /**
     * A connection with the handshake done.
     *
     * @throws SSLException if it fails; {@link #failure} says why
     */
    public SSLSocket connect(Socket plain, String host) throws IOException {
        SSLSocket secured = (SSLSocket) context.getSocketFactory().createSocket(plain, host, plain.getPort(), true);
        var parameters = secured.getSSLParameters();
        parameters.setEndpointIdentificationAlgorithm("HTTPS");
        secured.setSSLParameters(parameters);
        secured.startHandshake();
        waitForAlert(secured);
        return secured;
    }

    /**
     * A server of TLS 1.3 that wants a certificate says what it thinks of it after the handshake (RFC 8446, section 4.4.2.4),
     * and closes the connection on what is being written then. Where it asked for one, that is waited for a moment.
     */
    private void waitForAlert(SSLSocket secured) throws IOException {
        if (!keys.wasAsked(secured) || !secured.getSession().getProtocol().equals("TLSv1.3")) {
            return;
        }
        int patience = secured.getSoTimeout();
        secured.setSoTimeout(WAIT_FOR_ALERT_MILLIS);
        try {
            secured.getInputStream().read(new byte[1]);
        } catch (SocketTimeoutException e) {
            // It has nothing to say against the certificate, and waits for a request.
            secured.setSoTimeout(patience);
        }
    }

    /** Why a connection with TLS failed. */
    public TlsFailure failure(Throwable failure) {
        return TlsFailure.of(failure, keys.hasCertificate());
    }
}
