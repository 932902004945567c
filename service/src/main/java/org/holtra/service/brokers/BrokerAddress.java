package org.holtra.service.brokers;

import java.net.URI;
import java.net.URISyntaxException;
import java.util.Locale;
import java.util.Map;

/**
 * Where a broker is.
 *
 * @param scheme {@code mqtt}, {@code mqtts}, {@code ws} or {@code wss}
 * @param path of a WebSocket; empty for the others
 */
public record BrokerAddress(String scheme, String host, int port, String path) {

    /** Registered with IANA for MQTT; for WebSocket those of HTTP. */
    private static final Map<String, Integer> USUAL_PORTS = Map.of("mqtt", 1883, "mqtts", 8883, "ws", 80, "wss", 443);

    private static final Map<String, String> OTHER_NAMES = Map.of("tcp", "mqtt", "ssl", "mqtts", "tls", "mqtts");

    /**
     * @param text such as {@code mqtts://broker.example:8883}
     * @throws IllegalArgumentException if it is no broker's address, with a sentence for people
     */
    public static BrokerAddress of(String text) {
        URI uri;
        try {
            uri = new URI(text.strip());
        } catch (URISyntaxException e) {
            throw new IllegalArgumentException("`" + text + "` is not an address: " + e.getReason(), e);
        }
        String written = uri.getScheme() == null ? "" : uri.getScheme().toLowerCase(Locale.ROOT);
        String scheme = OTHER_NAMES.getOrDefault(written, written);
        if (!USUAL_PORTS.containsKey(scheme)) {
            throw new IllegalArgumentException(
                    "`" + text
                            + "` begins with none of mqtt:, mqtts: (TLS), ws: and wss: (WebSocket); write such as mqtt://host:1883");
        }
        if (uri.getHost() == null) {
            throw new IllegalArgumentException(
                    "`" + text + "` has no host; write such as " + scheme + "://host:" + USUAL_PORTS.get(scheme));
        }
        if (uri.getUserInfo() != null) {
            throw new IllegalArgumentException(
                    "user and password do not stand in the address; save them as a credential, and name it here");
        }
        boolean socket = scheme.startsWith("ws");
        String path = uri.getPath() == null ? "" : uri.getPath();
        if (!socket && path.length() > 1) {
            throw new IllegalArgumentException(
                    "a broker's address has no path; topics stand in the inlet or outlet, not here");
        }
        return new BrokerAddress(
                scheme,
                uri.getHost().replaceAll("^\\[|\\]$", ""),
                uri.getPort() < 0 ? USUAL_PORTS.get(scheme) : uri.getPort(),
                socket ? path : "");
    }

    public boolean tls() {
        return scheme.equals("mqtts") || scheme.equals("wss");
    }

    public boolean webSocket() {
        return scheme.startsWith("ws");
    }

    @Override
    public String toString() {
        return scheme + "://" + (host.contains(":") ? "[" + host + "]" : host) + ":" + port + path;
    }
}
