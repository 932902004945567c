package org.holtra.service.kinds.sql;

import java.io.IOException;
import java.net.InetAddress;
import java.net.Socket;
import javax.net.ssl.SSLSocketFactory;
import org.holtra.service.tls.ClientTls;

/** TLS to databases whose authority an outlet trusts. The database's driver makes one by its name, with the authority in PEM. */
public final class TrustedSockets extends SSLSocketFactory {

    private final SSLSocketFactory sockets;

    /** @param authority in PEM; empty for those of this machine only */
    public TrustedSockets(String authority) {
        this.sockets =
                ClientTls.of(authority.isEmpty() ? null : authority, null, null).sockets();
    }

    @Override
    public Socket createSocket(Socket plain, String host, int port, boolean autoClose) throws IOException {
        return sockets.createSocket(plain, host, port, autoClose);
    }

    @Override
    public Socket createSocket(String host, int port) throws IOException {
        return sockets.createSocket(host, port);
    }

    @Override
    public Socket createSocket(String host, int port, InetAddress local, int localPort) throws IOException {
        return sockets.createSocket(host, port, local, localPort);
    }

    @Override
    public Socket createSocket(InetAddress host, int port) throws IOException {
        return sockets.createSocket(host, port);
    }

    @Override
    public Socket createSocket(InetAddress host, int port, InetAddress local, int localPort) throws IOException {
        return sockets.createSocket(host, port, local, localPort);
    }

    @Override
    public String[] getDefaultCipherSuites() {
        return sockets.getDefaultCipherSuites();
    }

    @Override
    public String[] getSupportedCipherSuites() {
        return sockets.getSupportedCipherSuites();
    }
}
