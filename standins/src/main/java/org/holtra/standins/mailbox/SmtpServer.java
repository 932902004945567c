package org.holtra.standins.mailbox;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.SocketException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.atomic.AtomicReference;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLSocket;

/**
 * A mail server on loopback that takes mail for everybody and keeps it (RFC 5321, with STARTTLS and AUTH PLAIN). It can be told to
 * answer as troubled servers do.
 */
public final class SmtpServer implements AutoCloseable {

    /**
     * How it takes mail.
     *
     * @param user that has to sign in; null for anybody
     * @param password the user's
     * @param tls null if it offers no TLS
     * @param implicit whether it speaks TLS from the start
     */
    public record Manner(String user, String password, SSLContext tls, boolean implicit) {

        public static final Manner OPEN = new Manner(null, null, null, false);
    }

    private final Mailbox mailbox;
    private final Manner manner;
    private final ServerSocket listener;
    private final AtomicReference<String> mood = new AtomicReference<>("");

    public SmtpServer(Mailbox mailbox, int port, Manner manner) throws IOException {
        this.mailbox = mailbox;
        this.manner = manner;
        this.listener = manner.implicit
                ? manner.tls.getServerSocketFactory().createServerSocket(port, 50, InetAddress.getLoopbackAddress())
                : new ServerSocket(port, 50, InetAddress.getLoopbackAddress());
        Thread.ofVirtual().name("smtp-server").start(this::accept);
    }

    public int port() {
        return listener.getLocalPort();
    }

    /** @param reply to each recipient, such as {@code 550 no such mailbox}; empty to take it */
    public void mood(String reply) {
        mood.set(reply);
    }

    private void accept() {
        while (!listener.isClosed()) {
            try {
                Socket socket = listener.accept();
                Thread.ofVirtual().name("smtp-session").start(() -> serve(socket));
            } catch (SocketException e) {
                return; // closed
            } catch (IOException e) {
                System.err.println("mail server: " + e);
            }
        }
    }

    private void serve(Socket socket) {
        try (socket) {
            socket.setSoTimeout(60_000);
            new Conversation(socket, false).run();
        } catch (IOException e) {
            // Whoever sent broke off, which is a sender's right.
            System.err.println("mail server: a session ended: " + e.getMessage());
        }
    }

    private final class Conversation {

        private final Socket socket;
        private final boolean secured;
        private final BufferedReader in;
        private final OutputStream out;
        private boolean signedIn = manner.user == null;
        private String from;
        private final List<String> to = new ArrayList<>();

        Conversation(Socket socket, boolean secured) throws IOException {
            this.socket = socket;
            this.secured = secured;
            this.in = new BufferedReader(new InputStreamReader(socket.getInputStream(), StandardCharsets.UTF_8));
            this.out = socket.getOutputStream();
        }

        private void say(String line) throws IOException {
            out.write((line + "\r\n").getBytes(StandardCharsets.UTF_8));
            out.flush();
        }

        void run() throws IOException {
            if (!secured) {
                say("220 mailbox of Larkmoor");
            }
            for (String line = in.readLine(); line != null; line = in.readLine()) {
                String verb = line.toUpperCase(Locale.ROOT).split("[ :]", 2)[0];
                switch (verb) {
                    case "EHLO", "HELO" -> greet();
                    case "STARTTLS" -> {
                        say("220 go on");
                        SSLSocket upgraded = (SSLSocket)
                                manner.tls.getSocketFactory().createSocket(socket, null, socket.getPort(), false);
                        upgraded.setUseClientMode(false);
                        new Conversation(upgraded, true).run();
                        return;
                    }
                    case "AUTH" -> authenticate(line);
                    case "MAIL" -> {
                        from = between(line);
                        to.clear();
                        say(signedIn ? "250 ok" : "530 sign in first");
                    }
                    case "RCPT" -> recipient(line);
                    case "DATA" -> data();
                    case "RSET", "NOOP" -> say("250 ok");
                    case "QUIT" -> {
                        say("221 goodbye");
                        return;
                    }
                    default -> say("502 " + verb + " is not known here");
                }
            }
        }

        private void greet() throws IOException {
            say("250-mailbox of Larkmoor");
            if (manner.tls != null && !secured && !manner.implicit) {
                say("250-STARTTLS");
            }
            if (manner.user != null) {
                say("250-AUTH PLAIN");
            }
            say("250 8BITMIME");
        }

        private void authenticate(String line) throws IOException {
            String[] words = line.split(" ");
            String encoded = words.length > 2 ? words[2] : null;
            if (encoded == null) {
                say("334 ");
                encoded = in.readLine();
            }
            String given = new String(Base64.getDecoder().decode(encoded), StandardCharsets.UTF_8);
            // Whom to act as may stand before it (RFC 4616).
            signedIn = given.endsWith("\0" + manner.user + "\0" + manner.password);
            say(signedIn ? "235 signed in" : "535 user or password is wrong");
        }

        private void recipient(String line) throws IOException {
            if (!mood.get().isEmpty()) {
                say(mood.get());
                return;
            }
            to.add(between(line));
            say("250 ok");
        }

        private void data() throws IOException {
            if (to.isEmpty()) {
                say("554 for whom?");
                return;
            }
            say("354 end with a dot");
            StringBuilder text = new StringBuilder();
            for (String line = in.readLine(); line != null && !line.equals("."); line = in.readLine()) {
                text.append(line.startsWith("..") ? line.substring(1) : line).append("\r\n");
            }
            mailbox.take(new Mailbox.Mail(from, List.copyOf(to), text.toString()));
            say("250 taken");
        }

        private static String between(String line) {
            int begin = line.indexOf('<');
            int end = line.indexOf('>', begin);
            return begin < 0 || end < 0 ? line : line.substring(begin + 1, end);
        }
    }

    @Override
    public void close() throws IOException {
        listener.close();
    }
}
