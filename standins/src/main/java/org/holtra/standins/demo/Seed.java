package org.holtra.standins.demo;

import java.io.IOException;
import java.io.InputStream;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.Callable;
import java.util.stream.Stream;
import org.holtra.standins.demo.Orchards.Place;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import tools.jackson.databind.json.JsonMapper;

/** Furnishes a fresh service for the demo: credentials, what is known of the devices, and the setup. */
@Command(name = "seed", description = "Furnishes a fresh service with the demo's credentials, devices and setup.")
public final class Seed implements Callable<Integer> {

    private static final JsonMapper JSON = JsonMapper.shared();

    @Option(names = "--api", required = true, description = "Address of the service.")
    private URI api;

    @Option(names = "--desk", required = true, description = "Address of the works desk.")
    private URI desk;

    @Option(names = "--historian", required = true, description = "Address of the historian.")
    private URI historian;

    @Option(names = "--authorization", required = true, description = "Address of the authorization server.")
    private URI authorization;

    @Option(names = "--cloud", required = true, description = "Address of the device cloud.")
    private URI cloud;

    @Option(names = "--broker", required = true, description = "Address of the MQTT broker.")
    private URI broker;

    @Option(names = "--reports", required = true, description = "Address of the database for reports.")
    private URI reports;

    @Option(names = "--smtp-port", required = true, description = "Port the mailbox takes mail at.")
    private int smtpPort;

    @Option(names = "--setup", required = true, description = "Where to write the setup that was adopted.")
    private Path setup;

    /** Three hours behind Greenwich, all year. */
    private static final String ZONE = "Etc/GMT+3";

    /** Keys travel by the environment, which other people on the machine cannot read. */
    private final Secrets secrets = Secrets.fromEnvironment();

    private final HttpClient client = HttpClient.newHttpClient();

    @Override
    public Integer call() throws IOException, InterruptedException {
        credential("network-server", Map.of("form", "bearer", "token", secrets.networkServer()));
        credential("weather-masts", Map.of("form", "signature", "secret", secrets.weatherMasts()));
        credential("works-desk", Map.of("form", "bearer", "token", secrets.worksDesk()));
        credential("crew-board", Map.of("form", "header", "name", "X-Board-Key", "value", secrets.crewBoard()));
        credential("historian", Map.of("form", "bearer", "token", secrets.historian()));
        credential("device-cloud", Map.of("form", "bearer", "token", secrets.deviceCloud()));
        for (String orchard : Orchards.names()) {
            credential(
                    orchard.toLowerCase(Locale.ROOT) + "-desk",
                    Map.of(
                            "form",
                            "grant",
                            "authorizeUrl",
                            authorization + "/authorize",
                            "tokenUrl",
                            authorization + "/token",
                            "clientId",
                            Run.OWNERS_CLIENT,
                            "clientSecret",
                            secrets.worksDesk(),
                            "scope",
                            "orders",
                            "owner",
                            "the growers of " + orchard));
        }
        credential("old-meters", Map.of("form", "query", "name", "key", "value", secrets.oldMeters()));
        credential("soil-logger", Map.of("form", "path", "value", secrets.soilLogger()));
        credential("reports", Map.of("form", "login", "user", "reports", "password", secrets.reports()));
        credential("plant", Map.of("form", "login", "user", "plant", "password", secrets.plant()));
        List<Place> places = Stream.of(
                        Orchards.stations(),
                        Orchards.gauges(),
                        Orchards.probes().subList(0, 20),
                        Orchards.masts(),
                        Orchards.pumpHouses())
                .flatMap(List::stream)
                .toList();
        for (Place place : places) {
            Map<String, Object> known = new LinkedHashMap<>();
            known.put("model", place.model());
            known.put("facts", place.facts());
            known.put("zone", ZONE);
            if (place.model().equals("soil-probe")) {
                known.put("points", points(place));
            }
            put("/api/v1/devices/one?key=" + URLEncoder.encode(place.key(), StandardCharsets.UTF_8), known);
        }
        String yaml = yaml();
        Files.writeString(setup, yaml);
        request(HttpRequest.newBuilder(api.resolve("/api/v1/setup/adopt?note=demo"))
                .header("Content-Type", "application/yaml")
                .POST(HttpRequest.BodyPublishers.ofString(yaml)));
        System.out.println("The demo has " + places.size() + " devices; its setup is in " + setup + ".");
        return 0;
    }

    private static Map<String, Object> points(Place probe) {
        Map<String, Object> points = new LinkedHashMap<>();
        for (int depth : List.of(10, 30, 60)) {
            points.put("depth-" + depth, Map.of("reference", probe.key().toUpperCase(Locale.ROOT) + "/" + depth));
        }
        return points;
    }

    private void credential(String name, Map<String, String> fields) throws IOException, InterruptedException {
        put("/api/v1/credentials/" + name, fields);
    }

    private void put(String path, Object body) throws IOException, InterruptedException {
        request(HttpRequest.newBuilder(api.resolve(path))
                .header("Content-Type", "application/json")
                .PUT(HttpRequest.BodyPublishers.ofByteArray(JSON.writeValueAsBytes(body))));
    }

    private void request(HttpRequest.Builder request) throws IOException, InterruptedException {
        HttpResponse<String> response = client.send(
                request.header("Authorization", "Bearer " + secrets.apiKey()).build(),
                HttpResponse.BodyHandlers.ofString());
        if (response.statusCode() / 100 != 2) {
            throw new IOException(response.uri() + " answered " + response.statusCode() + ": " + response.body());
        }
    }

    private String yaml() throws IOException {
        try (InputStream file = Seed.class.getResourceAsStream("setup.yaml")) {
            return new String(file.readAllBytes(), StandardCharsets.UTF_8)
                    .replace("@desk@", desk.toString())
                    .replace("@historian@", historian.toString())
                    .replace("@cloud@", cloud.toString())
                    .replace("@reports@", reports.toString())
                    .replace("@smtp@", Integer.toString(smtpPort))
                    .replace("@broker@", broker.toString());
        }
    }
}
