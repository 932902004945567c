package org.holtra.service.brokers;

import java.util.Map;

/** The broker's reason codes (MQTT 5.0, section 2.4) in words, as far as a client can meet them. */
public final class ReasonCode {

    /** From here on, a code says that something failed. */
    public static final int FAILURE = 0x80;

    public static final int NO_SUBSCRIBERS = 0x10;
    public static final int UNSUPPORTED_VERSION = 0x84;
    public static final int CLIENT_ID_NOT_VALID = 0x85;
    public static final int BAD_USER_OR_PASSWORD = 0x86;
    public static final int NOT_AUTHORIZED = 0x87;
    public static final int SERVER_UNAVAILABLE = 0x88;
    public static final int SERVER_BUSY = 0x89;
    public static final int BANNED = 0x8A;
    public static final int SERVER_SHUTTING_DOWN = 0x8B;
    public static final int KEEP_ALIVE_TIMEOUT = 0x8D;
    public static final int SESSION_TAKEN_OVER = 0x8E;
    public static final int FILTER_INVALID = 0x8F;
    public static final int TOPIC_INVALID = 0x90;
    public static final int RECEIVE_MAXIMUM_EXCEEDED = 0x93;
    public static final int PACKET_TOO_LARGE = 0x95;
    public static final int QUOTA_EXCEEDED = 0x97;
    public static final int PAYLOAD_INVALID = 0x99;
    public static final int RETAIN_NOT_SUPPORTED = 0x9A;
    public static final int QOS_NOT_SUPPORTED = 0x9B;
    public static final int SHARED_NOT_SUPPORTED = 0x9E;
    public static final int WILDCARD_NOT_SUPPORTED = 0xA2;

    private static final Map<Integer, String> WORDS = Map.ofEntries(
            Map.entry(0x00, "success"),
            Map.entry(NO_SUBSCRIBERS, "no matching subscribers"),
            Map.entry(0x80, "unspecified error"),
            Map.entry(0x81, "malformed packet"),
            Map.entry(0x82, "protocol error"),
            Map.entry(0x83, "implementation specific error"),
            Map.entry(UNSUPPORTED_VERSION, "unsupported protocol version"),
            Map.entry(CLIENT_ID_NOT_VALID, "client identifier not valid"),
            Map.entry(BAD_USER_OR_PASSWORD, "bad user name or password"),
            Map.entry(NOT_AUTHORIZED, "not authorized"),
            Map.entry(SERVER_UNAVAILABLE, "server unavailable"),
            Map.entry(SERVER_BUSY, "server busy"),
            Map.entry(BANNED, "banned"),
            Map.entry(SERVER_SHUTTING_DOWN, "server shutting down"),
            Map.entry(0x8C, "bad authentication method"),
            Map.entry(KEEP_ALIVE_TIMEOUT, "keep alive timeout"),
            Map.entry(SESSION_TAKEN_OVER, "session taken over"),
            Map.entry(FILTER_INVALID, "topic filter invalid"),
            Map.entry(TOPIC_INVALID, "topic name invalid"),
            Map.entry(0x91, "packet identifier in use"),
            Map.entry(RECEIVE_MAXIMUM_EXCEEDED, "receive maximum exceeded"),
            Map.entry(0x94, "topic alias invalid"),
            Map.entry(PACKET_TOO_LARGE, "packet too large"),
            Map.entry(0x96, "message rate too high"),
            Map.entry(QUOTA_EXCEEDED, "quota exceeded"),
            Map.entry(0x98, "administrative action"),
            Map.entry(PAYLOAD_INVALID, "payload format invalid"),
            Map.entry(RETAIN_NOT_SUPPORTED, "retain not supported"),
            Map.entry(QOS_NOT_SUPPORTED, "QoS not supported"),
            Map.entry(0x9C, "use another server"),
            Map.entry(0x9D, "server moved"),
            Map.entry(SHARED_NOT_SUPPORTED, "shared subscriptions not supported"),
            Map.entry(0x9F, "connection rate exceeded"),
            Map.entry(0xA0, "maximum connect time"),
            Map.entry(0xA1, "subscription identifiers not supported"),
            Map.entry(WILDCARD_NOT_SUPPORTED, "wildcard subscriptions not supported"));

    private ReasonCode() {}

    /** As people write it, such as {@code 0x87}. */
    public static String text(int code) {
        return String.format("0x%02X", code);
    }

    /** With its meaning, such as {@code 0x87 not authorized}. */
    public static String words(int code) {
        String words = WORDS.get(code);
        return words == null ? text(code) : text(code) + " " + words;
    }
}
