package org.holtra.bench.load;

import com.hivemq.client.mqtt.MqttClient;
import com.hivemq.client.mqtt.datatypes.MqttQos;
import com.hivemq.client.mqtt.mqtt5.Mqtt5AsyncClient;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.Semaphore;

/** A real MQTT broker on loopback that lets anybody in, and whoever publishes to it. */
final class TestedBroker implements AutoCloseable {

    /** So many messages the broker may have on their way to one client. */
    static final int IN_FLIGHT = 256;

    private static final int PUBLISHED_AT_ONCE = 200;

    private final Process process;
    private final int port;

    private TestedBroker(Process process, int port) {
        this.process = process;
        this.port = port;
    }

    static TestedBroker start() throws IOException {
        int port = Running.freePort();
        Path folder = Files.createTempDirectory("bench-broker");
        Path file = folder.resolve("broker.conf");
        Files.writeString(file, """
                listener %d 127.0.0.1
                allow_anonymous true
                persistence false
                max_inflight_messages %d
                max_queued_messages 0
                %s
                """.formatted(
                        port, IN_FLIGHT, System.getProperty("user.name").equals("root") ? "user root" : ""));
        Process process = new ProcessBuilder("/usr/sbin/mosquitto", "-c", file.toString())
                .redirectErrorStream(true)
                .redirectOutput(folder.resolve("log").toFile())
                .start();
        while (true) {
            try (Socket socket = new Socket()) {
                socket.connect(new InetSocketAddress("127.0.0.1", port), 1_000);
                return new TestedBroker(process, port);
            } catch (IOException e) {
                if (!process.isAlive()) {
                    throw new IllegalStateException("the broker ended: " + Files.readString(folder.resolve("log")), e);
                }
                Running.pause(20);
            }
        }
    }

    int port() {
        return port;
    }

    Mqtt5AsyncClient client(String id) {
        Mqtt5AsyncClient client = MqttClient.builder()
                .identifier(id)
                .serverHost("127.0.0.1")
                .serverPort(port)
                .useMqttVersion5()
                .buildAsync();
        // This broker sends a few more than it is allowed to; here that is not to end anything.
        client.connectWith().cleanStart(true).send().join();
        return client;
    }

    /** Publishes so many messages with QoS 1, as fast as the broker takes them. */
    void publish(String topic, int messages) {
        Mqtt5AsyncClient client = client("publisher");
        Semaphore room = new Semaphore(PUBLISHED_AT_ONCE);
        for (int number = 0; number < messages; number++) {
            room.acquireUninterruptibly();
            client.publishWith()
                    .topic(topic)
                    .payload(Body.of(number, Load.DEVICES))
                    .qos(MqttQos.AT_LEAST_ONCE)
                    .send()
                    .whenComplete((sent, failure) -> room.release());
        }
        room.acquireUninterruptibly(PUBLISHED_AT_ONCE);
        client.disconnect().join();
    }

    @Override
    public void close() {
        process.destroyForcibly();
    }
}
