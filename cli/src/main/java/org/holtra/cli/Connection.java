package org.holtra.cli;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import java.util.Properties;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.JsonNodeFactory;

/**
 * Where the service is and with which key to go there: from flags; else from HOLTRA_SERVER and HOLTRA_API_KEY; else from
 * {@code holtra/client.properties} in the XDG config folder ({@code server=…}, {@code key=…}); else, within a checkout,
 * from the demo that runs there.
 */
final class Connection {

    @Option(names = "--server", paramLabel = "ADDRESS", description = "Address of the service.")
    private String server;

    @Option(
            names = "--key",
            paramLabel = "KEY",
            description = "API key. Better kept in HOLTRA_API_KEY or the config file.")
    private String key;

    Api api() {
        Map<String, String> environment = System.getenv();
        Properties file = configured(environment);
        JsonNode demo = demo(environment);
        String address =
                first(server, environment.get("HOLTRA_SERVER"), file.getProperty("server"), text(demo, "console"));
        if (address == null) {
            throw new ApiFailure(
                    Holtra.UNREACHABLE,
                    "No service is named. Start the demo with ./holtra demo, or say --server, or set HOLTRA_SERVER.");
        }
        return new Api(
                address, first(key, environment.get("HOLTRA_API_KEY"), file.getProperty("key"), text(demo, "key")));
    }

    private static Properties configured(Map<String, String> environment) {
        Path folder = environment.containsKey("XDG_CONFIG_HOME")
                ? Path.of(environment.get("XDG_CONFIG_HOME"))
                : Path.of(System.getProperty("user.home"), ".config");
        Path file = folder.resolve("holtra").resolve("client.properties");
        Properties properties = new Properties();
        if (Files.isReadable(file)) {
            try (var reader = Files.newBufferedReader(file)) {
                properties.load(reader);
            } catch (IOException e) {
                throw new UncheckedIOException(file + " cannot be read", e);
            }
        }
        return properties;
    }

    private static JsonNode demo(Map<String, String> environment) {
        String file = environment.get("HOLTRA_DEMO_FILE");
        if (file == null || !Files.isReadable(Path.of(file))) {
            return JsonNodeFactory.instance.objectNode();
        }
        try {
            return JsonTree.parse(Files.readAllBytes(Path.of(file)));
        } catch (IOException e) {
            throw new UncheckedIOException(file + " cannot be read", e);
        }
    }

    private static String text(JsonNode node, String field) {
        return node.path(field).asString(null);
    }

    private static String first(String... candidates) {
        for (String candidate : candidates) {
            if (candidate != null && !candidate.isBlank()) {
                return candidate;
            }
        }
        return null;
    }
}
