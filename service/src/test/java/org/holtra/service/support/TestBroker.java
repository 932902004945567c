package org.holtra.service.support;

import com.hivemq.client.mqtt.MqttClient;
import com.hivemq.client.mqtt.datatypes.MqttQos;
import com.hivemq.client.mqtt.mqtt5.Mqtt5AsyncClient;
import com.hivemq.client.mqtt.mqtt5.message.publish.Mqtt5Publish;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Queue;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.TimeUnit;

/** A real MQTT broker, started on loopback at a free port, with a client of its own that publishes and listens. */
public final class TestBroker implements AutoCloseable {

    private static final List<String> PROGRAMS = List.of("/usr/sbin/mosquitto", "/usr/bin/mosquitto");

    private final Path folder;
    private final int port;
    private final List<String> configuration;
    private final List<AutoCloseable> clients = new ArrayList<>();
    private Process process;
    private String user;
    private String password;

    private TestBroker(Path folder, int port, List<String> configuration) {
        this.folder = folder;
        this.port = port;
        this.configuration = configuration;
    }

    /** Lets anybody in. */
    public static TestBroker open() {
        return with("allow_anonymous true");
    }

    /** Lets in a user with a password only. */
    public static TestBroker closed(String user, String password) {
        TestBroker broker = made("allow_anonymous false", "password_file FOLDER/passwords");
        broker.user = user;
        broker.password = password;
        broker.writePassword(user, password);
        broker.start();
        return broker;
    }

    /** @param lines of its configuration beside its listener; FOLDER stands for a folder of its own */
    public static TestBroker with(String... lines) {
        TestBroker broker = made(lines);
        broker.start();
        return broker;
    }

    /** One that is not started yet. */
    public static TestBroker made(String... lines) {
        try (ServerSocket free = new ServerSocket(0)) {
            Path folder = Files.createTempDirectory("holtra-broker");
            return new TestBroker(folder, free.getLocalPort(), new ArrayList<>(Arrays.asList(lines)));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** More lines of its configuration, for when it starts next. */
    public void configure(String... lines) {
        configuration.addAll(List.of(lines));
    }

    /** A client of an id of one's own, which comes back whenever it is thrown out. */
    public void connectAs(String id) {
        Mqtt5AsyncClient client = MqttClient.builder()
                .identifier(id)
                .serverHost("127.0.0.1")
                .serverPort(port)
                .automaticReconnect()
                .initialDelay(200, TimeUnit.MILLISECONDS)
                .maxDelay(200, TimeUnit.MILLISECONDS)
                .applyAutomaticReconnect()
                .useMqttVersion5()
                .buildAsync();
        client.connect().join();
        clients.add(() -> client.disconnect().exceptionally(gone -> null).join());
    }

    public Path folder() {
        return folder;
    }

    public int port() {
        return port;
    }

    public String address() {
        return "mqtt://127.0.0.1:" + port;
    }

    public void start() {
        List<String> lines = new ArrayList<>();
        lines.add("per_listener_settings false");
        lines.add("persistence true");
        lines.add("persistence_location FOLDER/");
        lines.add("autosave_interval 1");
        lines.add("log_dest stderr");
        if ("root".equals(System.getProperty("user.name"))) {
            lines.add("user root"); // else it could not read what tests write
        }
        // As WebSocket it cannot be bound to an address in this version.
        lines.add("listener " + port + (configuration.contains("protocol websockets") ? "" : " 127.0.0.1"));
        lines.addAll(configuration);
        try {
            Path file = folder.resolve("broker.conf");
            Files.writeString(file, String.join("\n", lines).replace("FOLDER", folder.toString()) + "\n");
            process = new ProcessBuilder(program(), "-c", file.toString())
                    .redirectErrorStream(true)
                    .redirectOutput(folder.resolve("log").toFile())
                    .start();
            Client.await(this::answers, Boolean::booleanValue);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static String program() {
        return PROGRAMS.stream()
                .filter(program -> Files.isExecutable(Path.of(program)))
                .findFirst()
                .orElseThrow(() -> new AssertionError(
                        "there is no MQTT broker on this machine; install it: apt-get install mosquitto"));
    }

    private boolean answers() {
        try (Socket socket = new Socket()) {
            socket.connect(new InetSocketAddress("127.0.0.1", port), 1_000);
            return true;
        } catch (IOException e) {
            if (!process.isAlive()) {
                throw new AssertionError("the broker ended: " + log(), e);
            }
            return false;
        }
    }

    public String log() {
        try {
            return Files.readString(folder.resolve("log"));
        } catch (IOException e) {
            return e.toString();
        }
    }

    /** As when it is stopped by its operator: it writes down what it keeps. */
    public void stop() {
        end(false);
    }

    /** As when its machine dies. */
    public void kill() {
        end(true);
    }

    /** As when its machine stands still: connections stay open, and nothing answers. */
    public void freeze(boolean frozen) {
        try {
            new ProcessBuilder("kill", frozen ? "-STOP" : "-CONT", Long.toString(process.pid()))
                    .start()
                    .waitFor();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private void end(boolean hard) {
        if (hard) {
            process.destroyForcibly();
        } else {
            process.destroy();
        }
        try {
            if (!process.waitFor(10, TimeUnit.SECONDS)) {
                process.destroyForcibly().waitFor();
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** From now on; those who are connected stay so until they come again. */
    public void changePassword(String name, String next) {
        writePassword(name, next);
        stop();
        start();
    }

    private void writePassword(String name, String secret) {
        try {
            Process written = new ProcessBuilder(
                            "mosquitto_passwd",
                            "-b",
                            "-c",
                            folder.resolve("passwords").toString(),
                            name,
                            secret)
                    .redirectErrorStream(true)
                    .start();
            if (written.waitFor() != 0) {
                throw new AssertionError(new String(written.getInputStream().readAllBytes(), StandardCharsets.UTF_8));
            }
            user = name;
            password = secret;
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private Mqtt5AsyncClient client() {
        Mqtt5AsyncClient client = MqttClient.builder()
                .serverHost("127.0.0.1")
                .serverPort(port)
                .useMqttVersion5()
                .buildAsync();
        if (user == null) {
            client.connect().join();
        } else {
            client.connectWith()
                    .simpleAuth()
                    .username(user)
                    .password(password.getBytes(StandardCharsets.UTF_8))
                    .applySimpleAuth()
                    .send()
                    .join();
        }
        clients.add(() -> client.disconnect().exceptionally(gone -> null).join());
        return client;
    }

    /** Publishes texts to a topic with QoS 1, each acknowledged before the next. */
    public void publish(String topic, String... texts) {
        Mqtt5AsyncClient client = client();
        for (String text : texts) {
            publish(client, topic, text, false);
        }
        client.disconnect().join();
    }

    /** Publishes texts to a topic with QoS 1, in their order, without waiting for each. */
    public void publishAtOnce(String topic, List<String> texts) {
        Mqtt5AsyncClient client = client();
        texts.stream()
                .map(text -> client.publishWith()
                        .topic(topic)
                        .payload(text.getBytes(StandardCharsets.UTF_8))
                        .qos(MqttQos.AT_LEAST_ONCE)
                        .send())
                .toList()
                .forEach(java.util.concurrent.CompletableFuture::join);
        client.disconnect().join();
    }

    public void publishBytes(String topic, byte[] payload) {
        Mqtt5AsyncClient client = client();
        client.publishWith()
                .topic(topic)
                .payload(payload)
                .qos(MqttQos.AT_LEAST_ONCE)
                .send()
                .join();
        client.disconnect().join();
    }

    public void publishRetained(String topic, String text) {
        Mqtt5AsyncClient client = client();
        publish(client, topic, text, true);
        client.disconnect().join();
    }

    private static void publish(Mqtt5AsyncClient client, String topic, String text, boolean retain) {
        client.publishWith()
                .topic(topic)
                .payload(text.getBytes(StandardCharsets.UTF_8))
                .qos(MqttQos.AT_LEAST_ONCE)
                .retain(retain)
                .send()
                .join();
    }

    /** What comes on the topics of a filter from now on. */
    public Queue<Mqtt5Publish> listen(String filter) {
        Queue<Mqtt5Publish> came = new ConcurrentLinkedQueue<>();
        client().subscribeWith()
                .topicFilter(filter)
                .qos(MqttQos.EXACTLY_ONCE)
                .callback(came::add)
                .send()
                .join();
        return came;
    }

    @Override
    public void close() {
        clients.forEach(client -> {
            try {
                client.close();
            } catch (Exception e) {
                throw new AssertionError(e);
            }
        });
        end(true);
    }
}
