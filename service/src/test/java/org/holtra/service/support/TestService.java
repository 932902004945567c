package org.holtra.service.support;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.LinkedHashMap;
import java.util.Map;
import org.holtra.service.HoltraApplication;
import org.springframework.boot.builder.SpringApplicationBuilder;
import org.springframework.boot.web.server.servlet.context.ServletWebServerApplicationContext;
import org.springframework.context.ConfigurableApplicationContext;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** The service, started on loopback at a free port with a database of its own. */
public final class TestService implements AutoCloseable {

    private static final class Shared {
        private static final TestService SERVICE = start(TestDatabase.fresh());
    }

    private final ConfigurableApplicationContext context;
    private final TestDatabase database;
    private final JsonNode welcome;
    private final Path folder;
    private final Map<String, Object> special;
    private final int port;

    private TestService(
            ConfigurableApplicationContext context,
            TestDatabase database,
            JsonNode welcome,
            Path folder,
            Map<String, Object> special) {
        this.special = special;
        this.context = context;
        this.database = database;
        this.welcome = welcome;
        this.folder = folder;
        this.port =
                ((ServletWebServerApplicationContext) context).getWebServer().getPort();
    }

    /** One that all tests of this process share; each adopts the setup it needs. */
    public static TestService shared() {
        return Shared.SERVICE;
    }

    public static TestService start(TestDatabase database) {
        return start(database, Map.of());
    }

    /** @param special settings that differ from those of other tests */
    public static TestService start(TestDatabase database, Map<String, Object> special) {
        try {
            Path folder = Files.createTempDirectory("holtra-test");
            ConfigurableApplicationContext context = run(database, folder, special);
            return new TestService(
                    context, database, JsonMapper.shared().readTree(folder.resolve("welcome.json")), folder, special);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /**
     * On a database that an earlier version filled.
     *
     * @param keyFile with the key that its credentials are sealed with
     * @param key an API key that it knows
     */
    public static TestService on(TestDatabase database, Path keyFile, String key, Map<String, Object> special) {
        try {
            Path folder = Files.createTempDirectory("holtra-test");
            Files.copy(keyFile, folder.resolve("holtra.key"), StandardCopyOption.COPY_ATTRIBUTES);
            Files.setPosixFilePermissions(folder.resolve("holtra.key"), PosixFilePermissions.fromString("rw-------"));
            return new TestService(
                    run(database, folder, special),
                    database,
                    JsonMapper.shared().createObjectNode().put("key", key),
                    folder,
                    special);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** @param more what it has beside what ships */
    public static TestService with(TestDatabase database, Class<?> more) {
        try {
            Path folder = Files.createTempDirectory("holtra-test");
            return new TestService(
                    run(database, folder, Map.of(), HoltraApplication.class, more),
                    database,
                    JsonMapper.shared().readTree(folder.resolve("welcome.json")),
                    folder,
                    Map.of());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Starts it anew, on the same database and with the same key file, after it was closed. */
    public TestService again() {
        return new TestService(run(database, folder, special), database, welcome, folder, special);
    }

    /** Another node on the same database. */
    public TestService beside() {
        Map<String, Object> its = new LinkedHashMap<>(special);
        its.put("holtra.node", "other");
        return new TestService(run(database, folder, its), database, welcome, folder, its);
    }

    private static ConfigurableApplicationContext run(TestDatabase database, Path folder, Map<String, Object> special) {
        return run(database, folder, special, HoltraApplication.class);
    }

    private static ConfigurableApplicationContext run(
            TestDatabase database, Path folder, Map<String, Object> special, Class<?>... sources) {
        Map<String, Object> settings = new LinkedHashMap<>();
        settings.put("server.port", 0);
        settings.put("spring.datasource.url", database.url());
        settings.put("spring.datasource.password", database.password());
        settings.put("spring.datasource.hikari.connection-timeout", 2_000);
        settings.put("spring.datasource.hikari.minimum-idle", 2);
        settings.put("holtra.urgent-connections.minimum-idle", 1);
        settings.put("holtra.password-strength", 4);
        settings.put("holtra.outlets-reach", "local");
        settings.put("holtra.key-file", folder.resolve("holtra.key").toString());
        settings.put(
                "holtra.spool-folder",
                folder.resolve("spool" + special.getOrDefault("holtra.node", ""))
                        .toString());
        settings.put("holtra.welcome-file", folder.resolve("welcome.json").toString());
        settings.put("logging.level.root", "warn");
        settings.put("logging.level.org.holtra", "warn");
        settings.putAll(special);
        String[] arguments = settings.entrySet().stream()
                .map(setting -> "--" + setting.getKey() + "=" + setting.getValue())
                .toArray(String[]::new);
        return new SpringApplicationBuilder(sources).run(arguments);
    }

    public Path keyFile() {
        return folder.resolve("holtra.key");
    }

    public String address() {
        return "http://127.0.0.1:" + port;
    }

    public String key() {
        return welcome.path("key").asString();
    }

    public String password() {
        return welcome.path("password").asString();
    }

    public TestDatabase database() {
        return database;
    }

    public Client client() {
        return new Client(address(), key());
    }

    /** Tells the service's listeners of something, as if it had come from another node. */
    public void publish(Object event) {
        context.publishEvent(event);
    }

    public <T> T bean(Class<T> type) {
        return context.getBean(type);
    }

    public <T> T bean(String name, Class<T> type) {
        return context.getBean(name, type);
    }

    @Override
    public void close() {
        context.close();
    }
}
