package org.holtra.service.faults;

import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.util.concurrent.atomic.AtomicReference;

/** Stands between the service and its database, and can cut a connection at the one moment that leaves a commit in doubt. */
final class CutProxy implements AutoCloseable {

    private final ServerSocket server;
    private final int database;
    /** A text in a statement of the transaction that is to be cut; null for none. */
    private final AtomicReference<String> armed = new AtomicReference<>();

    CutProxy(int database) {
        this.database = database;
        try {
            server = new ServerSocket(0, 64, InetAddress.getLoopbackAddress());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        Thread.ofVirtual().start(this::accept);
    }

    int port() {
        return server.getLocalPort();
    }

    /** The next transaction with such a statement is committed, and whoever committed it never hears of that. */
    void cutAfterCommitOf(String statement) {
        armed.set(statement);
    }

    boolean hasCut() {
        return armed.get() == null;
    }

    private void accept() {
        while (!server.isClosed()) {
            try {
                Socket client = server.accept();
                Socket there = new Socket(InetAddress.getLoopbackAddress(), database);
                Connection connection = new Connection(client, there);
                Thread.ofVirtual().start(connection::toDatabase);
                Thread.ofVirtual().start(connection::toClient);
            } catch (IOException e) {
                return; // closed, at the end of the test
            }
        }
    }

    private final class Connection {
        private final Socket client;
        private final Socket there;
        private volatile boolean holds;

        Connection(Socket client, Socket there) {
            this.client = client;
            this.there = there;
        }

        void toDatabase() {
            byte[] buffer = new byte[1 << 16];
            try (client;
                    there) {
                InputStream in = client.getInputStream();
                OutputStream out = there.getOutputStream();
                for (int read = in.read(buffer); read >= 0; read = in.read(buffer)) {
                    String text = new String(buffer, 0, read, StandardCharsets.ISO_8859_1);
                    String wanted = armed.get();
                    holds |= wanted != null && text.contains(wanted);
                    out.write(buffer, 0, read);
                }
            } catch (IOException e) {
                return; // one side has gone
            }
        }

        /** ReadyForQuery with no transaction open: the one that was is committed. */
        private static boolean saysIdle(byte[] buffer, int length) {
            return length >= 6 && buffer[length - 6] == 'Z' && buffer[length - 1] == 'I';
        }

        void toClient() {
            byte[] buffer = new byte[1 << 16];
            try (client;
                    there) {
                InputStream in = there.getInputStream();
                OutputStream out = client.getOutputStream();
                for (int read = in.read(buffer); read >= 0; read = in.read(buffer)) {
                    if (holds && saysIdle(buffer, read)) {
                        armed.set(null);
                        return;
                    }
                    out.write(buffer, 0, read);
                }
            } catch (IOException e) {
                return; // one side has gone
            }
        }
    }

    @Override
    public void close() throws IOException {
        server.close();
    }
}
