package org.holtra.service.httpclient;

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
import javax.net.ssl.SSLException;
import javax.net.ssl.SSLSocket;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.connections.CheckStep.Result;
import org.holtra.service.reach.CheckedAddresses;
import org.holtra.service.tls.ClientTls;
import org.holtra.service.tls.TlsFailure;
import org.holtra.service.tls.TrustOffer;

/**
 * Looks step by step whether an http outlet would work: its name is found, somebody listens, TLS is spoken, the credential is
 * taken. Ends with the first step that fails. For the last an {@code OPTIONS} request goes there, which changes nothing
 * (RFC 9110, section 9.3.7).
 */
public final class HttpCheck {

    private static final int PATIENCE_MILLIS = 5_000;
    private static final String SPEAKS_TLS = "this port speaks TLS";
    private static final String WRITE_HTTPS = "Write https in the outlet's address.";

    private final URI address;
    private final CheckedAddresses addresses;
    private final HttpSink sink;
    private final ClientTls tls;
    private final boolean credential;
    private final List<CheckStep> steps = new ArrayList<>();

    /** A step that failed, with what to do about it. */
    private static final class Failed extends Exception {

        private static final long serialVersionUID = 1L;
        private final String mend;
        private final transient CheckStep.Offer offer;

        Failed(String told, String mend) {
            this(told, mend, null);
        }

        Failed(String told, String mend, CheckStep.Offer offer) {
            super(told);
            this.mend = mend;
            this.offer = offer;
        }
    }

    private interface Look<T> {
        T look() throws Failed, IOException;
    }

    public HttpCheck(HttpTarget target, CheckedAddresses addresses, HttpSink sink, ClientTls tls) {
        this.tls = tls;
        this.address = URI.create(target.url());
        this.credential = target.credential() != null;
        this.addresses = addresses;
        this.sink = sink;
    }

    public List<CheckStep> run() {
        boolean secure = isSecure();
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

    private boolean isSecure() {
        return "https".equals(address.getScheme());
    }

    private <T> T step(String name, Look<T> look, java.util.function.Function<T, String> words) {
        long began = System.nanoTime();
        try {
            T result = look.look();
            add(name, Result.PASSED, words.apply(result), null, began);
            return result;
        } catch (Failed e) {
            steps.add(new CheckStep(name, Result.FAILED, e.getMessage(), e.mend, e.offer, micros(began)));
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
        steps.add(new CheckStep(name, result, told, mend, micros(began)));
    }

    private static long micros(long began) {
        return (System.nanoTime() - began) / 1_000;
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
        try (Socket plain = new Socket()) {
            plain.connect(found.getFirst(), PATIENCE_MILLIS);
            plain.setSoTimeout(PATIENCE_MILLIS);
            try (SSLSocket socket = tls.connect(plain, address.getHost())) {
                return socket.getSession().getProtocol();
            }
        } catch (SocketTimeoutException e) {
            throw new Failed("this port does not speak TLS, or is too slow", TlsFailure.NO_TLS);
        } catch (SSLException e) {
            TlsFailure failure = tls.failure(e);
            throw new Failed(
                    failure.words(),
                    failure.mend(),
                    failure.authority() == null ? null : TrustOffer.of("outlet", failure.authority()));
        }
    }

    /** Whether a port that was spoken to without TLS speaks it. */
    private boolean speaksTls() {
        try (Socket plain = new Socket()) {
            int port = address.getPort() > 0 ? address.getPort() : 80;
            plain.connect(addresses.resolve(address.getHost(), port).getFirst(), PATIENCE_MILLIS);
            plain.setSoTimeout(PATIENCE_MILLIS);
            try (SSLSocket socket = tls.connect(plain, address.getHost())) {
                return socket.isConnected();
            }
        } catch (SSLException e) {
            return tls.failure(e).authority() != null || tls.failure(e).refused();
        } catch (IOException e) {
            return false;
        }
    }

    private void answers() {
        long began = System.nanoTime();
        try {
            int status = sink.probe();
            if (status == 400 && !isSecure() && speaksTls()) {
                add("answers", Result.FAILED, SPEAKS_TLS, WRITE_HTTPS, began);
                return;
            }
            switch (status) {
                case 401 -> {
                    if (credential) {
                        add(
                                "signed in",
                                Result.FAILED,
                                "answered 401: the credential is refused",
                                "Enter the credential anew: the whole secret, without a scheme word before it, and the right one if there are two.",
                                began);
                    } else {
                        add(
                                "signed in",
                                Result.FAILED,
                                "answered 401: it wants a credential, and none is set",
                                "Choose one in the outlet's settings.",
                                began);
                    }
                }
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
        } catch (SSLException e) {
            TlsFailure failure = tls.failure(e);
            add("answers", Result.FAILED, failure.words(), failure.mend(), began);
        } catch (IOException e) {
            boolean encrypted = !isSecure() && speaksTls();
            add(
                    "answers",
                    Result.FAILED,
                    encrypted
                            ? SPEAKS_TLS
                            : "no answer to be understood: " + sink.masked(String.valueOf(e.getMessage())),
                    encrypted ? WRITE_HTTPS : "Look whether something else than HTTP is spoken at this port.",
                    began);
        }
    }
}
