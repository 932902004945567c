package org.holtra.service.web;

import java.security.cert.X509Certificate;
import javax.net.ssl.X509TrustManager;

/**
 * Lets a sender show any certificate in the handshake, which proves only that it holds the key. Each inlet that checks its
 * senders by certificate decides by its own authority, and can say what is wrong; nothing else looks at certificates.
 */
public final class AnyClientCertificate implements X509TrustManager {

    /** Made by Tomcat. */
    public AnyClientCertificate() {
        // Nothing to set.
    }

    @Override
    public void checkClientTrusted(X509Certificate[] chain, String type) {
        // Decided by the inlet.
    }

    @Override
    public void checkServerTrusted(X509Certificate[] chain, String type) {
        throw new UnsupportedOperationException("this is the server");
    }

    @Override
    public X509Certificate[] getAcceptedIssuers() {
        return new X509Certificate[0];
    }
}
