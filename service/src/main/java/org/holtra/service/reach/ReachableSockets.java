package org.holtra.service.reach;

import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.net.SocketAddress;
import javax.net.SocketFactory;

/** Sockets that connect only to addresses that outlets may reach, for clients that are given a factory or the name of one. */
public final class ReachableSockets extends SocketFactory {

    private final Reach reach;

    /** @param reach as HOLTRA_OUTLETS_REACH has it */
    public ReachableSockets(String reach) {
        this.reach = Reach.of(reach);
    }

    @Override
    public Socket createSocket() {
        return new Socket() {
            @Override
            public void connect(SocketAddress address, int timeout) throws IOException {
                if (address instanceof InetSocketAddress internet && internet.getAddress() != null) {
                    new CheckedAddresses(reach).resolve(internet.getAddress().getHostAddress());
                }
                super.connect(address, timeout);
            }
        };
    }

    @Override
    public Socket createSocket(String host, int port) throws IOException {
        Socket socket = createSocket();
        socket.connect(new InetSocketAddress(host, port), 0);
        return socket;
    }

    @Override
    public Socket createSocket(String host, int port, InetAddress local, int localPort) throws IOException {
        return createSocket(host, port);
    }

    @Override
    public Socket createSocket(InetAddress host, int port) throws IOException {
        Socket socket = createSocket();
        socket.connect(new InetSocketAddress(host, port), 0);
        return socket;
    }

    @Override
    public Socket createSocket(InetAddress host, int port, InetAddress local, int localPort) throws IOException {
        return createSocket(host, port);
    }
}
