package org.holtra.service.brokers;

import com.hivemq.client.mqtt.lifecycle.MqttClientDisconnectedContext;
import com.hivemq.client.mqtt.lifecycle.MqttDisconnectSource;

/** Whether a client was ever connected: what fails before that is told by the attempt to connect. */
final class Connected {

    volatile boolean made;

    void lost(MqttClientDisconnectedContext context, BrokerClient.Listener listener) {
        if (made && context.getSource() != MqttDisconnectSource.USER) {
            listener.lost(context.getCause());
        }
    }
}
