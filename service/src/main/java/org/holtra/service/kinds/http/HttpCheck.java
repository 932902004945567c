package org.holtra.service.kinds.http;

import java.io.IOException;
import java.net.ConnectException;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.net.SocketTimeoutException;
import java.net.URI;
import java.net.UnknownHostException;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import javax.net.ssl.SSLException;
import javax.net.ssl.SSLParameters;
import javax.net.ssl.SSLSocket;
import javax.net.ssl.SSLSocketFactory;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.connections.CheckStep.Result;

/**
 * Looks step by step whether an http outlet would work: its name is found, somebody listens, TLS is spoken, the credential is
 * taken. Ends with the first step that fails. For the last an {@code OPTIONS} request goes there, which changes nothing
 * (RFC 9110, section 9.3.7).
 */
final class HttpCheck {

    private static final int PATIENCE_MILLIS = 5_000;
    private static final String NO_TLS = "Write http in the outlet's address, or name the port that speaks TLS.";

    private final URI address;
    private final CheckedAddresses addresses;
    private final HttpSink sink;
    private final List<CheckStep> steps = new ArrayList<>();

    /** A step that failed, with what to do about it. */
    private static final class Failed extends Exception {

        private static final long serialVersionUID = 1L;
        private final String mend;

        Failed(String told, String mend) {
            super(told);
            this.mend = mend;
        }
    }

    private interface Look<T> {
        T look() throws Failed, IOException;
    }

    HttpCheck(HttpTarget target, CheckedAddresses addresses, HttpSink sink) {
        this.address = URI.create(target.url());
        this.addresses = addresses;
        this.sink = sink;
    }

    List<CheckStep> run() {
        boolean secure = "https".equals(address.getScheme());
        int port = address.getPort() > 0 ? address.getPort() : secure ? 443 : 80;
        List<InetSocketAddress> found = step(
                "name found",
                () -> found(port),
                all -> all.stream()
                        .map(one -> one.getAddress().getHostAddress())
                        .collect(Collectors.joining(", ")));
        boolean goesOn = found != null
                && step("connected", () -> connect(found, port), one -> "to " + one.getHostAddress() + ", port " + port)
                        != null
                && (!secure || step("TLS", () -> shakeHands(found), text -> text) != null);
        if (goesOn) {
            answers();
        }
        return List.copyOf(steps);
    }

    private <T> T step(String name, Look<T> look, java.util.function.Function<T, String> words) {
        long began = System.nanoTime();
        try {
            T result = look.look();
            add(name, Result.PASSED, words.apply(result), null, began);
            return result;
        } catch (Failed e) {
            add(name, Result.FAILED, e.getMessage(), e.mend, began);
        } catch (IOException e) {
            add(
                    name,
                    Result.FAILED,
                    String.valueOf(e.getMessage()),
                    "Try again; should it stay so, ask who runs it.",
                    began);
        }
        return null;
    }

    private void add(String name, Result result, String told, String mend, long began) {
        steps.add(new CheckStep(name, result, told, mend, (System.nanoTime() - began) / 1_000));
    }

    private List<InetSocketAddress> found(int port) throws Failed {
        try {
            return addresses.resolve(address.getHost(), port);
        } catch (CheckedAddresses.OutOfReach e) {
            throw new Failed(e.getMessage(), "Set HOLTRA_OUTLETS_REACH, or name an address that may be reached.");
        } catch (UnknownHostException e) {
            throw new Failed(
                    "no host is called " + address.getHost(),
                    "Look for a slip in the outlet's address; else ask whether this machine's name server knows it.");
        }
    }

    private java.net.InetAddress connect(List<InetSocketAddress> found, int port) throws Failed, IOException {
        IOException last = null;
        for (InetSocketAddress one : found) {
            try (Socket socket = new Socket()) {
                socket.connect(one, PATIENCE_MILLIS);
                return one.getAddress();
            } catch (ConnectException e) {
                last = e;
            } catch (SocketTimeoutException e) {
                throw new Failed(
                        "nobody answers at " + one.getAddress().getHostAddress() + ", port " + port,
                        "A firewall may drop what goes there; have it opened from this machine.");
            }
        }
        throw last instanceof ConnectException
                ? new Failed(
                        "nobody listens at port " + port,
                        "Look at the port in the outlet's address, and whether the destination runs.")
                : new Failed("there is no address to connect to", "Look at the outlet's address.");
    }

    private String shakeHands(List<InetSocketAddress> found) throws Failed, IOException {
        SSLSocketFactory factory = (SSLSocketFactory) SSLSocketFactory.getDefault();
        try (Socket plain = new Socket()) {
            plain.connect(found.getFirst(), PATIENCE_MILLIS);
            plain.setSoTimeout(PATIENCE_MILLIS);
            try (SSLSocket socket = (SSLSocket) factory.createSocket(plain, address.getHost(), plain.getPort(), true)) {
                SSLParameters parameters = socket.getSSLParameters();
                parameters.setEndpointIdentificationAlgorithm("HTTPS");
                socket.setSSLParameters(parameters);
                socket.startHandshake();
                return socket.getSession().getProtocol();
            }
        } catch (SocketTimeoutException e) {
            throw new Failed("this port does not speak TLS, or is too slow", NO_TLS);
        } catch (SSLException e) {
            throw new Failed(words(e), mend(e));
        }
    }

    private static String words(SSLException e) {
        String said = String.valueOf(e.getMessage());
        if (isNoTls(said)) {
            return "this port does not speak TLS";
        }
        return said.contains("PKIX")
                ? "its certificate is signed by an authority that this machine does not trust"
                : "its certificate or its TLS is not as it should be: " + said;
    }

    private static String mend(SSLException e) {
        String said = String.valueOf(e.getMessage());
        if (isNoTls(said)) {
            return NO_TLS;
        }
        return said.contains("PKIX")
                ? "Have the authority added to those that Java trusts on this machine."
                : "Ask who runs the destination to renew its certificate, for this very name.";
    }

    private static boolean isNoTls(String said) {
        return Stream.of("plaintext connection", "Unrecognized SSL message").anyMatch(said::contains);
    }

    private void answers() {
        long began = System.nanoTime();
        try {
            int status = sink.probe();
            switch (status) {
                case 401 ->
                    add(
                            "signed in",
                            Result.FAILED,
                            "answered 401: the credential is refused",
                            "Enter the credential anew: the whole secret, without a scheme word before it, and the right one if there are two.",
                            began);
                case 403 ->
                    add(
                            "allowed",
                            Result.FAILED,
                            "answered 403: the credential is taken, and may not do this",
                            "Have the permission to send given to it at the destination.",
                            began);
                default ->
                    add(
                            "answers",
                            status < 300 ? Result.PASSED : Result.UNCERTAIN,
                            "answered " + status
                                    + (status < 300 ? "" : "; whether it takes messages shows with the first one"),
                            null,
                            began);
            }
        } catch (IOException e) {
            add(
                    "answers",
                    Result.FAILED,
                    "no answer to be understood: " + sink.masked(String.valueOf(e.getMessage())),
                    "If this port speaks TLS, write https in the outlet's address.",
                    began);
        }
    }
}
