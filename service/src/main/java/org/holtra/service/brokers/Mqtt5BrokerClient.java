package org.holtra.service.brokers;

import com.hivemq.client.mqtt.MqttGlobalPublishFilter;
import com.hivemq.client.mqtt.datatypes.MqttQos;
import com.hivemq.client.mqtt.mqtt5.Mqtt5AsyncClient;
import com.hivemq.client.mqtt.mqtt5.datatypes.Mqtt5UserProperties;
import com.hivemq.client.mqtt.mqtt5.datatypes.Mqtt5UserPropertiesBuilder;
import com.hivemq.client.mqtt.mqtt5.exceptions.Mqtt5PubAckException;
import com.hivemq.client.mqtt.mqtt5.exceptions.Mqtt5PubRecException;
import com.hivemq.client.mqtt.mqtt5.exceptions.Mqtt5SubAckException;
import com.hivemq.client.mqtt.mqtt5.message.connect.Mqtt5Connect;
import com.hivemq.client.mqtt.mqtt5.message.connect.Mqtt5ConnectBuilder;
import com.hivemq.client.mqtt.mqtt5.message.disconnect.Mqtt5Disconnect;
import com.hivemq.client.mqtt.mqtt5.message.publish.Mqtt5Publish;
import com.hivemq.client.mqtt.mqtt5.message.publish.Mqtt5PublishBuilder;
import com.hivemq.client.mqtt.mqtt5.message.publish.Mqtt5PublishResult;
import com.hivemq.client.mqtt.mqtt5.message.subscribe.Mqtt5RetainHandling;
import com.hivemq.client.mqtt.mqtt5.message.subscribe.Mqtt5Subscribe;
import com.hivemq.client.mqtt.mqtt5.message.subscribe.Mqtt5Subscription;
import com.hivemq.client.mqtt.mqtt5.message.subscribe.suback.Mqtt5SubAck;
import com.hivemq.client.mqtt.mqtt5.message.unsubscribe.Mqtt5Unsubscribe;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;

/** A connection in MQTT 5. */
final class Mqtt5BrokerClient implements BrokerClient {

    private final Mqtt5AsyncClient client;
    private final Mqtt5Connect connect;

    Mqtt5BrokerClient(MqttTransport transport, Broker broker, Session session, Listener listener) {
        this.client = transport.client(session, listener).useMqttVersion5().buildAsync();
        client.publishes(MqttGlobalPublishFilter.ALL, publish -> listener.arrived(incoming(publish)), true);
        this.connect = connect(broker, session);
    }

    private static Mqtt5Connect connect(Broker broker, Session session) {
        Mqtt5ConnectBuilder builder = Mqtt5Connect.builder()
                .keepAlive((int) session.keepAlive().toSeconds())
                .cleanStart(session.clean())
                .sessionExpiryInterval(session.clean() ? 0 : session.expiry().toSeconds())
                .restrictions()
                .receiveMaximum(session.receiveMaximum())
                .applyRestrictions();
        if (broker.user() != null && broker.password() != null) {
            builder.simpleAuth()
                    .username(broker.user())
                    .password(broker.password().getBytes(StandardCharsets.UTF_8))
                    .applySimpleAuth();
        } else if (broker.user() != null) {
            builder.simpleAuth().username(broker.user()).applySimpleAuth();
        }
        if (session.will() != null) {
            builder.willPublish(packet(session.will()).asWill());
        }
        return builder.build();
    }

    private static Incoming incoming(Mqtt5Publish publish) {
        Map<String, String> properties = new LinkedHashMap<>();
        publish.getUserProperties()
                .asList()
                .forEach(property -> properties.put(
                        property.getName().toString(), property.getValue().toString()));
        return new Incoming(
                publish.getTopic().toString(),
                publish.getPayloadAsBytes(),
                publish.getQos().getCode(),
                publish.isRetain(),
                publish.getContentType().map(Object::toString).orElse(null),
                properties,
                publish::acknowledge);
    }

    @Override
    public CompletableFuture<Boolean> connect() {
        return client.connect(connect).thenApply(answer -> answer.isSessionPresent());
    }

    @Override
    public CompletableFuture<List<Integer>> subscribe(List<String> filters, int qos) {
        Mqtt5Subscribe subscribe = Mqtt5Subscribe.builder()
                .addSubscriptions(filters.stream()
                        .map(filter -> Mqtt5Subscription.builder()
                                .topicFilter(filter)
                                .qos(MqttQos.fromCode(qos))
                                .retainHandling(Mqtt5RetainHandling.SEND_IF_SUBSCRIPTION_DOES_NOT_EXIST)
                                .build()))
                .build();
        return client.subscribe(subscribe).handle((answer, failure) -> codes(answer, failure));
    }

    private static List<Integer> codes(Mqtt5SubAck answer, Throwable failure) {
        Throwable cause = failure instanceof CompletionException ? failure.getCause() : failure;
        if (cause instanceof Mqtt5SubAckException refused) {
            return codes(refused.getMqttMessage(), null);
        }
        if (cause != null) {
            throw new CompletionException(cause);
        }
        return answer.getReasonCodes().stream().map(code -> code.getCode()).toList();
    }

    @Override
    public CompletableFuture<Void> unsubscribe(List<String> filters) {
        return client.unsubscribe(Mqtt5Unsubscribe.builder()
                        .addTopicFilters(filters.stream().map(com.hivemq.client.mqtt.datatypes.MqttTopicFilter::of))
                        .build())
                .thenApply(answer -> null);
    }

    @Override
    public CompletableFuture<Integer> publish(Outgoing message) {
        return client.publish(packet(message)).handle(Mqtt5BrokerClient::code);
    }

    private static Integer code(Mqtt5PublishResult result, Throwable failure) {
        Throwable cause = failure instanceof CompletionException ? failure.getCause() : failure;
        if (cause == null) {
            cause = result.getError().orElse(null);
        }
        return switch (cause) {
            case null ->
                result instanceof Mqtt5PublishResult.Mqtt5Qos1Result acknowledged
                        ? acknowledged.getPubAck().getReasonCode().getCode()
                        : result instanceof Mqtt5PublishResult.Mqtt5Qos2Result received
                                ? received.getPubRec().getReasonCode().getCode()
                                : 0;
            case Mqtt5PubAckException refused ->
                refused.getMqttMessage().getReasonCode().getCode();
            case Mqtt5PubRecException refused ->
                refused.getMqttMessage().getReasonCode().getCode();
            default -> throw new CompletionException(cause);
        };
    }

    private static Mqtt5Publish packet(Outgoing message) {
        Mqtt5UserPropertiesBuilder properties = Mqtt5UserProperties.builder();
        message.properties().forEach(properties::add);
        Mqtt5PublishBuilder.Complete builder = Mqtt5Publish.builder()
                .topic(message.topic())
                .payload(message.payload())
                .qos(MqttQos.fromCode(message.qos()))
                .retain(message.retain())
                .userProperties(properties.build());
        if (message.expiry() != null) {
            builder = builder.messageExpiryInterval(message.expiry().toSeconds());
        }
        return message.contentType() == null
                ? builder.build()
                : builder.contentType(message.contentType()).build();
    }

    @Override
    public CompletableFuture<Void> disconnect(boolean forget) {
        return client.disconnect(
                forget
                        ? Mqtt5Disconnect.builder().sessionExpiryInterval(0).build()
                        : Mqtt5Disconnect.builder().build());
    }
}
