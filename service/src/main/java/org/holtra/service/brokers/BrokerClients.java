package org.holtra.service.brokers;

import java.net.UnknownHostException;
import org.holtra.service.reach.CheckedAddresses;

/** Makes clients, in the version of the protocol that a broker is spoken to in. */
public record BrokerClients(CheckedAddresses addresses) {

    /**
     * Looks up the broker's name; may take a while. The client is not connected yet.
     *
     * @throws UnknownHostException if there is no such host, or none that may be reached
     */
    public BrokerClient client(Broker broker, Session session, BrokerClient.Listener listener)
            throws UnknownHostException {
        MqttTransport transport = MqttTransport.to(broker, addresses);
        return broker.version() == 3
                ? new Mqtt3BrokerClient(transport, broker, session, listener)
                : new Mqtt5BrokerClient(transport, broker, session, listener);
    }
}
