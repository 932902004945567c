package org.holtra.service.brokers;

import com.hivemq.client.mqtt.MqttGlobalPublishFilter;
import com.hivemq.client.mqtt.datatypes.MqttQos;
import com.hivemq.client.mqtt.datatypes.MqttTopicFilter;
import com.hivemq.client.mqtt.mqtt3.Mqtt3AsyncClient;
import com.hivemq.client.mqtt.mqtt3.exceptions.Mqtt3SubAckException;
import com.hivemq.client.mqtt.mqtt3.message.connect.Mqtt3Connect;
import com.hivemq.client.mqtt.mqtt3.message.connect.Mqtt3ConnectBuilder;
import com.hivemq.client.mqtt.mqtt3.message.publish.Mqtt3Publish;
import com.hivemq.client.mqtt.mqtt3.message.subscribe.Mqtt3Subscribe;
import com.hivemq.client.mqtt.mqtt3.message.subscribe.Mqtt3Subscription;
import com.hivemq.client.mqtt.mqtt3.message.subscribe.suback.Mqtt3SubAck;
import com.hivemq.client.mqtt.mqtt3.message.unsubscribe.Mqtt3Unsubscribe;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;

/** A connection in MQTT 3.1.1: without user properties, content types, expiry, and reasons for a refused message. */
final class Mqtt3BrokerClient implements BrokerClient {

    private final Mqtt3AsyncClient client;
    private final Mqtt3Connect connect;

    Mqtt3BrokerClient(MqttTransport transport, Broker broker, Session session, Listener listener) {
        this.client = transport.client(session, listener).useMqttVersion3().buildAsync();
        client.publishes(MqttGlobalPublishFilter.ALL, publish -> listener.arrived(incoming(publish)), true);
        this.connect = connect(broker, session);
    }

    private static Mqtt3Connect connect(Broker broker, Session session) {
        Mqtt3ConnectBuilder builder = Mqtt3Connect.builder()
                .keepAlive((int) session.keepAlive().toSeconds())
                .cleanSession(session.clean());
        if (broker.user() != null && broker.password() != null) {
            builder.simpleAuth()
                    .username(broker.user())
                    .password(broker.password().getBytes(StandardCharsets.UTF_8))
                    .applySimpleAuth();
        } else if (broker.user() != null) {
            builder.simpleAuth().username(broker.user()).applySimpleAuth();
        }
        if (session.will() != null) {
            builder.willPublish(packet(session.will()));
        }
        return builder.build();
    }

    private static Incoming incoming(Mqtt3Publish publish) {
        return new Incoming(
                publish.getTopic().toString(),
                publish.getPayloadAsBytes(),
                publish.getQos().getCode(),
                publish.isRetain(),
                null,
                Map.of(),
                publish::acknowledge);
    }

    @Override
    public CompletableFuture<Boolean> connect() {
        return client.connect(connect).thenApply(answer -> answer.isSessionPresent());
    }

    @Override
    public CompletableFuture<List<Integer>> subscribe(List<String> filters, int qos) {
        Mqtt3Subscribe subscribe = Mqtt3Subscribe.builder()
                .addSubscriptions(filters.stream()
                        .map(filter -> Mqtt3Subscription.builder()
                                .topicFilter(filter)
                                .qos(MqttQos.fromCode(qos))
                                .build()))
                .build();
        return client.subscribe(subscribe).handle((answer, failure) -> codes(answer, failure));
    }

    private static List<Integer> codes(Mqtt3SubAck answer, Throwable failure) {
        Throwable cause = failure instanceof CompletionException ? failure.getCause() : failure;
        if (cause instanceof Mqtt3SubAckException refused) {
            return codes(refused.getMqttMessage(), null);
        }
        if (cause != null) {
            throw new CompletionException(cause);
        }
        return answer.getReturnCodes().stream().map(code -> code.getCode()).toList();
    }

    @Override
    public CompletableFuture<Void> unsubscribe(List<String> filters) {
        return client.unsubscribe(Mqtt3Unsubscribe.builder()
                .addTopicFilters(filters.stream().map(MqttTopicFilter::of))
                .build());
    }

    @Override
    public CompletableFuture<Integer> publish(Outgoing message) {
        return client.publish(packet(message)).thenApply(sent -> 0);
    }

    private static Mqtt3Publish packet(Outgoing message) {
        return Mqtt3Publish.builder()
                .topic(message.topic())
                .payload(message.payload())
                .qos(MqttQos.fromCode(message.qos()))
                .retain(message.retain())
                .build();
    }

    @Override
    public CompletableFuture<Void> disconnect(boolean forget) {
        return client.disconnect();
    }
}
