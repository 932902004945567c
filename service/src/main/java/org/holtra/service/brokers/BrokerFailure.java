package org.holtra.service.brokers;

import com.hivemq.client.mqtt.exceptions.ConnectionClosedException;
import com.hivemq.client.mqtt.mqtt3.exceptions.Mqtt3ConnAckException;
import com.hivemq.client.mqtt.mqtt3.message.connect.connack.Mqtt3ConnAckReturnCode;
import com.hivemq.client.mqtt.mqtt5.exceptions.Mqtt5ConnAckException;
import com.hivemq.client.mqtt.mqtt5.exceptions.Mqtt5DisconnectException;
import io.netty.handler.codec.http.websocketx.WebSocketHandshakeException;
import java.net.ConnectException;
import java.net.NoRouteToHostException;
import java.net.UnknownHostException;
import java.security.cert.X509Certificate;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeoutException;
import javax.net.ssl.SSLException;
import org.holtra.service.reach.CheckedAddresses;
import org.holtra.service.tls.TlsFailure;

/**
 * Why a connection to a broker could not be made, or ended.
 *
 * @param mend what to do about it
 * @param authority what would have to be trusted; null if that is not what is wrong
 */
public record BrokerFailure(Sort sort, String words, String mend, X509Certificate authority) {

    /** What is to blame, as a check names its steps. */
    public enum Sort {
        /** The host's name, or how far Holtra may reach. */
        NAME,
        UNREACHABLE,
        TLS,
        /** The broker lets this user, or this client, not in. */
        REFUSED,
        /** Another client has the same id. */
        TAKEN_OVER,
        /** It was there, and is no more; or is busy. */
        BROKE
    }

    private static final String TAKEN_MEND =
            "Two clients with one id throw each other out. Find the other one, or give this one a clientId of its own.";

    /** Whether it will be so until a person does something. */
    public boolean refused() {
        return sort == Sort.REFUSED;
    }

    public static BrokerFailure of(Throwable failure, Broker broker, Session session) {
        List<Throwable> chain = chain(failure);
        for (Throwable cause : chain) {
            BrokerFailure known = known(cause, broker, session);
            if (known != null) {
                return known;
            }
        }
        for (Throwable cause : chain) {
            if (cause instanceof ConnectionClosedException) {
                return new BrokerFailure(
                        Sort.BROKE,
                        "the connection broke",
                        "It is made anew by itself. If it breaks again and again, the broker's log tells why.",
                        null);
            }
        }
        Throwable last = chain.getLast();
        return new BrokerFailure(
                Sort.BROKE,
                "the connection failed: "
                        + (last.getMessage() == null ? last.getClass().getSimpleName() : last.getMessage()),
                "It is tried again by itself. The broker's log may tell more.",
                null);
    }

    /** Of a connection that was never made. */
    public static BrokerFailure whileConnecting(Throwable failure, Broker broker, Session session) {
        BrokerFailure usual = of(failure, broker, session);
        boolean closed = usual.sort == Sort.BROKE
                && chain(failure).stream().anyMatch(ConnectionClosedException.class::isInstance);
        if (!closed) {
            return usual;
        }
        return broker.tls() == null ? silent(broker) : closedAfterTls(broker);
    }

    /** With TLS 1.3, a server that wants another certificate, or any, says so by ending the connection. */
    private static BrokerFailure closedAfterTls(Broker broker) {
        return new BrokerFailure(
                Sort.REFUSED,
                "the broker ends the connection before it answers; it may "
                        + (broker.tls().hasCertificate()
                                ? "refuse the client certificate"
                                : "want a client certificate, and none is set"),
                "Look at the broker's log. A certificate with its key is saved as a credential of the form bundle.",
                null);
    }

    /** Whether the connection was ended because the broker sent more than the receive maximum. */
    static boolean isTooMany(Throwable why) {
        return chain(why).stream()
                .anyMatch(cause -> cause instanceof Mqtt5DisconnectException ended
                                && ended.getMqttMessage().getReasonCode().getCode()
                                        == ReasonCode.RECEIVE_MAXIMUM_EXCEEDED
                        || String.valueOf(cause.getMessage()).contains("receive maximum"));
    }

    private static List<Throwable> chain(Throwable failure) {
        List<Throwable> chain = new ArrayList<>();
        for (Throwable at = failure; at != null && !chain.contains(at); at = at.getCause()) {
            chain.add(at);
        }
        return chain;
    }

    private static BrokerFailure known(Throwable cause, Broker broker, Session session) {
        return switch (cause) {
            case Mqtt5ConnAckException refused ->
                refused(refused.getMqttMessage().getReasonCode().getCode(), broker, session);
            case Mqtt3ConnAckException refused ->
                refused(code(refused.getMqttMessage().getReturnCode()), broker, session);
            case Mqtt5DisconnectException ended ->
                ended(ended.getMqttMessage().getReasonCode().getCode(), session);
            case CheckedAddresses.OutOfReach far ->
                new BrokerFailure(
                        Sort.NAME, far.getMessage(), "Set HOLTRA_OUTLETS_REACH, or name another address.", null);
            case UnknownHostException unknown ->
                new BrokerFailure(
                        Sort.NAME,
                        "no host is called " + broker.address().host(),
                        "Look at the host in the connection's address.",
                        null);
            case SSLException tls when broker.tls() != null -> tls(broker.tls().failure(tls));
            case ConnectException refused -> unreachable(broker);
            case NoRouteToHostException none -> unreachable(broker);
            case WebSocketHandshakeException handshake ->
                new BrokerFailure(
                        Sort.UNREACHABLE,
                        "the server answers, but takes no WebSocket at "
                                + broker.address().path() + ": " + handshake.getMessage(),
                        "Look at the path in the connection's address; /mqtt is usual.",
                        null);
            case TimeoutException late -> silent(broker);
            default -> late(cause, broker);
        };
    }

    private static BrokerFailure late(Throwable cause, Broker broker) {
        String said = String.valueOf(cause.getMessage());
        if (said.contains("imeout while waiting for CONNACK")) {
            return silent(broker);
        }
        return said.contains("closed connection without") && said.contains("CONNACK") ? silent(broker) : null;
    }

    private static int code(Mqtt3ConnAckReturnCode code) {
        return switch (code) {
            case UNSUPPORTED_PROTOCOL_VERSION -> ReasonCode.UNSUPPORTED_VERSION;
            case IDENTIFIER_REJECTED -> ReasonCode.CLIENT_ID_NOT_VALID;
            case SERVER_UNAVAILABLE -> ReasonCode.SERVER_UNAVAILABLE;
            case BAD_USER_NAME_OR_PASSWORD -> ReasonCode.BAD_USER_OR_PASSWORD;
            case NOT_AUTHORIZED -> ReasonCode.NOT_AUTHORIZED;
            case SUCCESS -> 0;
        };
    }

    private static BrokerFailure refused(int code, Broker broker, Session session) {
        String said = " (" + ReasonCode.words(code) + ")";
        return switch (code) {
            case ReasonCode.BAD_USER_OR_PASSWORD, ReasonCode.NOT_AUTHORIZED ->
                broker.user() == null && (broker.tls() == null || !broker.tls().hasCertificate())
                        ? new BrokerFailure(
                                Sort.REFUSED,
                                "the broker lets nobody in who does not sign in, and the connection names no credential"
                                        + said,
                                "Save the user and the password as a credential, and name it in the connection.",
                                null)
                        : new BrokerFailure(Sort.REFUSED, whoIsRefused(broker, code) + said, MEND_LOGIN, null);
            case ReasonCode.CLIENT_ID_NOT_VALID ->
                new BrokerFailure(
                        Sort.REFUSED,
                        "the broker refuses the client id `" + session.clientId() + "`" + said,
                        "Set clientId to one that the broker admits.",
                        null);
            case ReasonCode.UNSUPPORTED_VERSION ->
                new BrokerFailure(
                        Sort.REFUSED,
                        "the broker does not speak MQTT " + (broker.version() == 3 ? "3.1.1" : "5") + said,
                        "Set the connection's version to " + (broker.version() == 3 ? "5." : "3.1.1."),
                        null);
            case ReasonCode.BANNED ->
                new BrokerFailure(
                        Sort.REFUSED, "the broker has banned this client" + said, "Ask who runs the broker.", null);
            default ->
                new BrokerFailure(
                        Sort.BROKE, "the broker takes no connection now" + said, "It is tried again by itself.", null);
        };
    }

    private static final String MEND_LOGIN =
            "Save the right user and password in the credential: all that use the connection sign in anew at once.";

    private static String whoIsRefused(Broker broker, int code) {
        if (broker.user() == null) {
            return "the broker does not let the owner of the client certificate in";
        }
        return code == ReasonCode.BAD_USER_OR_PASSWORD
                ? "the broker refuses the user `" + broker.user() + "` or the password"
                : "the broker does not let user `" + broker.user()
                        + "` in: the user or the password is wrong, or the user may not connect";
    }

    private static BrokerFailure ended(int code, Session session) {
        String said = " (" + ReasonCode.words(code) + ")";
        return switch (code) {
            case ReasonCode.SESSION_TAKEN_OVER ->
                new BrokerFailure(
                        Sort.TAKEN_OVER,
                        "another client connected with the same id, `" + session.clientId()
                                + "`, and took the connection over" + said,
                        TAKEN_MEND,
                        null);
            case ReasonCode.SERVER_SHUTTING_DOWN ->
                new BrokerFailure(
                        Sort.BROKE, "the broker is shutting down" + said, "It is tried again by itself.", null);
            case ReasonCode.NOT_AUTHORIZED ->
                new BrokerFailure(Sort.REFUSED, "the broker ended the connection" + said, MEND_LOGIN, null);
            default ->
                new BrokerFailure(
                        Sort.BROKE,
                        "the broker ended the connection" + said,
                        "It is made anew by itself. The broker's log may tell more.",
                        null);
        };
    }

    private static BrokerFailure tls(TlsFailure failure) {
        return new BrokerFailure(Sort.TLS, failure.words(), failure.mend(), failure.authority());
    }

    private static BrokerFailure unreachable(Broker broker) {
        return new BrokerFailure(
                Sort.UNREACHABLE,
                "nobody listens at " + broker.address().host() + ", port "
                        + broker.address().port(),
                "Look at the port in the connection's address, and whether the broker runs.",
                null);
    }

    private static BrokerFailure silent(Broker broker) {
        return new BrokerFailure(
                Sort.UNREACHABLE,
                "something listens at port " + broker.address().port() + ", and does not answer as a broker does",
                broker.tls() == null
                        ? "Look at the port; if it is the one for TLS, write mqtts (or wss) in the address."
                        : "Look at the port; if it is one without TLS, write mqtt (or ws) in the address.",
                null);
    }

    /** For a broker that does not say it, as those of MQTT 3.1.1: it ends connections just after they were made. */
    public static BrokerFailure takenOverAsItSeems(Session session) {
        return new BrokerFailure(
                Sort.TAKEN_OVER,
                "the broker ends the connection each time just after it was made; another client seems to have the same"
                        + " id, `" + session.clientId() + "`",
                TAKEN_MEND,
                null);
    }
}
