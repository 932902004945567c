package org.holtra.service.brokers;

import com.hivemq.client.mqtt.MqttClient;
import com.hivemq.client.mqtt.MqttClientBuilder;
import com.hivemq.client.mqtt.MqttClientSslConfig;
import com.hivemq.client.mqtt.MqttClientTransportConfig;
import com.hivemq.client.mqtt.MqttClientTransportConfigBuilder;
import com.hivemq.client.mqtt.MqttWebSocketConfig;
import io.netty.handler.ssl.util.KeyManagerFactoryWrapper;
import io.netty.handler.ssl.util.TrustManagerFactoryWrapper;
import java.net.InetSocketAddress;
import java.net.UnknownHostException;
import java.util.concurrent.TimeUnit;
import org.holtra.service.reach.CheckedAddresses;

/** The way to a broker: TCP, TLS or WebSocket, to an address that may be reached. */
record MqttTransport(MqttClientTransportConfig config) {

    private static final int PATIENCE_SECONDS = 10;

    /**
     * Looks up the broker's name; may take a while.
     *
     * @throws UnknownHostException if there is no such host, or none that may be reached
     */
    static MqttTransport to(Broker broker, CheckedAddresses addresses) throws UnknownHostException {
        BrokerAddress address = broker.address();
        InetSocketAddress found =
                addresses.resolve(address.host(), address.port()).getFirst();
        MqttClientTransportConfigBuilder builder = MqttClientTransportConfig.builder()
                .serverAddress(found)
                .socketConnectTimeout(PATIENCE_SECONDS, TimeUnit.SECONDS)
                .mqttConnectTimeout(PATIENCE_SECONDS, TimeUnit.SECONDS);
        if (broker.tls() != null) {
            builder.sslConfig(MqttClientSslConfig.builder()
                    .trustManagerFactory(
                            new TrustManagerFactoryWrapper(broker.tls().trust()))
                    .keyManagerFactory(new KeyManagerFactoryWrapper(broker.tls().keys()))
                    .handshakeTimeout(PATIENCE_SECONDS, TimeUnit.SECONDS)
                    .build());
        }
        if (address.webSocket()) {
            String path = address.path().startsWith("/") ? address.path().substring(1) : address.path();
            builder.webSocketConfig(
                    MqttWebSocketConfig.builder().serverPath(path).build());
        }
        return new MqttTransport(builder.build());
    }

    /** A client over it, in a version of the protocol that is still to be chosen. */
    MqttClientBuilder client(Session session, BrokerClient.Listener listener) {
        Connected connected = new Connected();
        return MqttClient.builder()
                .identifier(session.clientId())
                .transportConfig(config)
                .addConnectedListener(context -> connected.made = true)
                .addDisconnectedListener(context -> connected.lost(context, listener));
    }
}
