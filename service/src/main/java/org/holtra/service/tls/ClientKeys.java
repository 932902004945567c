package org.holtra.service.tls;

import java.net.Socket;
import java.security.Principal;
import java.security.PrivateKey;
import java.security.cert.X509Certificate;
import java.util.Collections;
import java.util.Set;
import java.util.WeakHashMap;
import javax.net.ssl.SSLEngine;
import javax.net.ssl.X509ExtendedKeyManager;

/** The certificate that a client shows, if it has one; and which servers asked for one. */
final class ClientKeys extends X509ExtendedKeyManager {

    private final X509ExtendedKeyManager own;
    private final Set<Socket> asked = Collections.synchronizedSet(Collections.newSetFromMap(new WeakHashMap<>()));

    /** @param own null if the client has no certificate */
    ClientKeys(X509ExtendedKeyManager own) {
        this.own = own;
    }

    boolean hasCertificate() {
        return own != null;
    }

    /** Whether the server asked for a certificate when this connection was made. Told once. */
    boolean wasAsked(Socket connection) {
        return asked.remove(connection);
    }

    @Override
    public String chooseClientAlias(String[] types, Principal[] issuers, Socket socket) {
        asked.add(socket);
        return own == null ? null : own.chooseClientAlias(types, issuers, socket);
    }

    @Override
    public String chooseEngineClientAlias(String[] types, Principal[] issuers, SSLEngine engine) {
        return own == null ? null : own.chooseEngineClientAlias(types, issuers, engine);
    }

    @Override
    public String[] getClientAliases(String type, Principal[] issuers) {
        return own == null ? null : own.getClientAliases(type, issuers);
    }

    @Override
    public X509Certificate[] getCertificateChain(String alias) {
        return own == null ? null : own.getCertificateChain(alias);
    }

    @Override
    public PrivateKey getPrivateKey(String alias) {
        return own == null ? null : own.getPrivateKey(alias);
    }

    @Override
    public String[] getServerAliases(String type, Principal[] issuers) {
        return null; // a client is no server
    }

    @Override
    public String chooseServerAlias(String type, Principal[] issuers, Socket socket) {
        return null; // a client is no server
    }
}
