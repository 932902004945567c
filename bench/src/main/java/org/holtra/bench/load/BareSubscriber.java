package org.holtra.bench.load;

import com.hivemq.client.mqtt.MqttGlobalPublishFilter;
import com.hivemq.client.mqtt.datatypes.MqttQos;
import com.hivemq.client.mqtt.mqtt5.Mqtt5AsyncClient;
import com.hivemq.client.mqtt.mqtt5.message.publish.Mqtt5Publish;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;

/** What is compared with: it subscribes, inserts whatever has come in one transaction, and acknowledges. */
final class BareSubscriber implements AutoCloseable {

    private final Mqtt5AsyncClient client;
    private final BlockingQueue<Mqtt5Publish> came = new LinkedBlockingQueue<>();
    private final Database database;
    private final Thread writer;
    private volatile long kept;

    BareSubscriber(TestedBroker broker, Database database, String topic) {
        this.database = database;
        database.run("create table bare (body bytea)");
        this.writer = Thread.ofPlatform().daemon().start(this::write);
        this.client = broker.client("bare");
        client.publishes(MqttGlobalPublishFilter.ALL, came::add, true);
        client.subscribeWith()
                .topicFilter(topic)
                .qos(MqttQos.AT_LEAST_ONCE)
                .send()
                .join();
    }

    private void write() {
        try (Connection connection = database.connect();
                var insert = connection.prepareStatement("insert into bare select unnest(?::bytea[])")) {
            List<Mqtt5Publish> group = new ArrayList<>();
            while (true) {
                group.add(came.take());
                came.drainTo(group);
                insert.setArray(
                        1,
                        connection.createArrayOf(
                                "bytea",
                                group.stream()
                                        .map(Mqtt5Publish::getPayloadAsBytes)
                                        .toArray(byte[][]::new)));
                insert.executeUpdate();
                group.forEach(Mqtt5Publish::acknowledge);
                kept += group.size();
                group.clear();
            }
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    long kept() {
        return kept;
    }

    @Override
    public void close() {
        client.disconnect().join();
        writer.interrupt();
    }
}
