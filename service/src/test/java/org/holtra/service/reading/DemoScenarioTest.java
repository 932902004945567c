package org.holtra.service.reading;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.InputStream;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import org.holtra.service.support.Client;
import org.holtra.service.support.Receiver;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.holtra.standins.demo.Orchards;
import org.holtra.standins.demo.Seed;
import org.holtra.standins.network.Devices;
import org.holtra.standins.network.OldDevices;
import org.holtra.standins.weather.Weather;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** The demo's own setup reads what the demo's own devices send. */
class DemoScenarioTest {

    private static final Instant NIGHT = Instant.parse("2026-04-12T03:20:00Z");

    private static TestService service;
    private static Client client;
    private static Receiver desk;

    private final Devices devices = new Devices(new Weather(NIGHT, LocalTime.parse("04:30"), 6), new Random(3));

    @BeforeAll
    static void start() throws Exception {
        service = TestService.start(TestDatabase.fresh());
        client = service.client();
        desk = Receiver.answering(201);
        client.save("network-server", Map.of("form", "bearer", "token", "a-network-server"));
        client.save("weather-masts", Map.of("form", "signature", "secret", "whsec_MDEyMzQ1Njc4OWFiY2RlZjAxMjM0NTY3"));
        client.save("works-desk", Map.of("form", "bearer", "token", "a-works-desk"));
        client.save("reports", Map.of("form", "login", "user", "reports", "password", "a-reports-password"));
        client.save("plant", Map.of("form", "login", "user", "plant", "password", "a-plant-password"));
        client.save("historian", Map.of("form", "bearer", "token", "a-historian"));
        for (String orchard : Orchards.names()) {
            client.save(
                    orchard.toLowerCase(java.util.Locale.ROOT) + "-desk",
                    Map.of(
                            "form", "grant",
                            "authorizeUrl", "http://127.0.0.1:1/authorize",
                            "tokenUrl", "http://127.0.0.1:1/token",
                            "clientId", "holtra"));
        }
        client.save("device-cloud", Map.of("form", "bearer", "token", "a-device-cloud"));
        client.save("old-meters", Map.of("form", "query", "name", "key", "value", "a-meter-key-7Fq"));
        client.save("soil-logger", Map.of("form", "path", "value", "a-logger-secret-in-the-path"));
        client.save("crew-board", Map.of("form", "header", "name", "X-Board-Key", "value", "a-crew-board"));
        try (InputStream file = Seed.class.getResourceAsStream("setup.yaml")) {
            Client.good(client.adopt(new String(file.readAllBytes(), StandardCharsets.UTF_8)
                    .replace("@desk@", desk.address())
                    .replace("@historian@", desk.address())
                    .replace("@cloud@", desk.address())
                    // Nobody listens there; what the plant would send is sent by hand.
                    .replace("@broker@", "mqtt://127.0.0.1:1")
                    .replace("@reports@", "postgresql://127.0.0.1:1/reports")
                    .replace("@smtp@", "1")
                    .replace("device: meta.node", "device: data.pump\n    time: data.at\n    type: \"'reading'\"")));
        }
        Orchards.Place low = Orchards.stations().getFirst();
        Client.good(
                client.put("/api/v1/devices/one?key=" + low.key(), Map.of("model", low.model(), "facts", low.facts())));
    }

    @AfterAll
    static void end() {
        desk.close();
        service.close();
    }

    private static JsonNode sent(String inlet, byte[] body) {
        String id = client.send(inlet, new String(body, StandardCharsets.UTF_8));
        // On a busy machine its codec may have been busy too.
        return Client.await(
                () -> client.trace(id),
                trace -> !trace.at("/message/state").asString().equals("deferred"));
    }

    @Test
    void aFrostyStationIsDecodedByTheMakersScriptAndCallsTheCrewOnce() {
        Orchards.Place low = Orchards.stations().getFirst();
        Orchards.Place station =
                new Orchards.Place("cs-90", low.model(), low.orchard(), low.row(), low.variety(), low.altitude());
        Client.good(client.put(
                "/api/v1/devices/one?key=" + station.key(),
                Map.of("model", station.model(), "facts", station.facts())));
        JsonNode trace = sent("network-server", devices.station(station, NIGHT).getFirst());
        sent("network-server", devices.station(station, NIGHT.plusSeconds(60)).getFirst());
        sent("network-server", devices.station(station, NIGHT.plusSeconds(120)).getFirst());

        assertThat(trace.at("/message/state").asString()).isEqualTo("read");
        assertThat(trace.at("/data/wetBulb").asDouble()).isBetween(-6.0, 0.3);
        assertThat(trace.at("/data/humidity").asDouble()).isBetween(50.0, 100.0);
        assertThat(trace.at("/meta/gatewayLatitude").asDouble()).isBetween(12.0, 13.0);
        JsonNode alarm = Client.await(
                        () -> client.get("/api/v1/alarms?lookout=frost&device=" + station.key())
                                .path("alarms"),
                        all -> all.size() == 1)
                .get(0);
        assertThat(alarm.path("cause").asString())
                .isEqualTo(trace.at("/message/id").asString());
        assertThat(body(client.trace(alarm.path("id").asString()), "frost-calls"))
                .contains("\"what\":\"frost call\"")
                .contains(station.orchard() + ", row " + station.row());
        assertThat(body(trace, "history")).startsWith("ASH.R01.CS90 ").contains("wetBulb=");
    }

    /** What arrived of a message by a lane. */
    private static String body(JsonNode trace, String lane) {
        String key = trace.at("/message/id").asString() + "." + lane;
        return Client.await(
                        () -> desk.came().stream()
                                .filter(one -> one.header("Idempotency-Key").equals(key))
                                .findFirst(),
                        java.util.Optional::isPresent)
                .orElseThrow()
                .body();
    }

    @Test
    void aSoilProbeGoesToTheHistorianPointByPointUnderItsReferences() {
        Orchards.Place probe = Orchards.probes().getFirst();
        Client.good(client.put(
                "/api/v1/devices/one?key=" + probe.key(),
                Map.of("model", probe.model(), "points", Map.of("depth-10", Map.of("reference", "SP-01/10")))));

        JsonNode trace = sent("network-server", devices.probe(probe, NIGHT).getFirst());

        assertThat(body(trace, "soil-history.depth-10")).startsWith("SP-01/10 moisture=");
        assertThat(body(trace, "soil-history.depth-60")).startsWith("sp-01/depth-60 moisture=");
    }

    @Test
    void aPumpsStateReachesTheDeskInItsOwnWords() {
        Orchards.Place pump = Orchards.pumpHouses().getFirst();
        Client.good(client.put(
                "/api/v1/devices/one?key=" + pump.key(), Map.of("model", pump.model(), "facts", pump.facts())));

        JsonNode trace = sent(
                "pump-houses",
                "{\"pump\":\"ph-01\",\"at\":\"2026-04-12T03:20:00Z\",\"state\":3,\"current\":31.5}"
                        .getBytes(StandardCharsets.UTF_8));

        assertThat(body(trace, "pump-trouble"))
                .isEqualTo(
                        "{\"what\":\"pump blocked, look at the intake\",\"where\":\"Ashcombe, row 1\",\"amperes\":31.5}");
        assertThat(sent("pump-houses", devices.pump(pump, NIGHT))
                        .at("/message/state")
                        .asString())
                .isEqualTo("read");
    }

    @Test
    void anOlderMeterThatKnowsOnlyItsUrlReachesTheHistorianWithTheChannelsOfTwoMeters() {
        byte[] readings;
        try (OldDevices old = new OldDevices(URI.create(service.address()), "", "", new Random(1))) {
            readings = old.readings(NIGHT);
        }
        Client.Answer answer =
                client.call("POST", "/in/old-meters?key=a-meter-key-7Fq", readings, "Content-Type", "application/json");
        assertThat(answer.status()).as(answer.body()).isEqualTo(202);

        JsonNode whole = client.trace(answer.json().path("id").asString());
        assertThat(whole.at("/came/address").asString()).isEqualTo("/in/old-meters?key=•••");
        assertThat(whole.path("parts").valueStream())
                .extracting(part -> part.path("device").asString())
                .containsExactly("em-01", "em-02");
        JsonNode part = client.trace(whole.at("/parts/1/id").asString());
        assertThat(part.at("/message/eventTime").asString()).isEqualTo(NIGHT.toString());
        assertThat(body(part, "meter-history")).startsWith("em-02 energy=").contains(",power=");
        assertThat(whole.toString() + part).doesNotContain("a-meter-key-7Fq");
    }

    @Test
    void aSoilLoggersBareNumbersAreTheMoistureOfItsDepths() {
        for (int depth : List.of(10, 30)) {
            Client.Answer answer = client.call(
                    "POST",
                    "/in/soil-logger/a-logger-secret-in-the-path/sl-01/depth-" + depth,
                    (depth + ".5").getBytes(StandardCharsets.UTF_8),
                    "Content-Type",
                    "text/plain");
            assertThat(answer.status()).as(answer.body()).isEqualTo(202);
            JsonNode trace = client.trace(answer.json().path("id").asString());
            assertThat(trace.path("data").toString()).isEqualTo("{\"moisture" + depth + "\":" + depth + ".5}");
            assertThat(trace.at("/meta/path").toString())
                    .isEqualTo("{\"logger\":\"sl-01\",\"depth\":\"depth-" + depth + "\"}");
            assertThat(trace.toString()).doesNotContain("a-logger-secret");
        }
        assertThat(Client.await(
                                () -> client.get("/api/v1/devices/one?key=sl-01")
                                        .path("values"),
                                values -> values.size() == 2)
                        .at("/moisture30/value")
                        .asDouble())
                .isEqualTo(30.5);
    }

    @Test
    void whatAPumpMovedInADayIsToldFromItsMeters() {
        Orchards.Place pump = Orchards.pumpHouses().getLast();
        Client.good(client.put(
                "/api/v1/devices/one?key=" + pump.key(),
                Map.of("model", pump.model(), "facts", pump.facts(), "zone", "Etc/GMT+3")));
        List<JsonNode> log = devices.pumpLog(pump, NIGHT, Duration.ofHours(30)).stream()
                .map(body -> sent("pump-houses", body))
                .toList();

        String made = Client.await(
                        () -> lane(client.trace(log.get(40).at("/message/id").asString()), "pump-days"),
                        lane -> !lane.path("into").isNull())
                .path("into")
                .asString();

        String line = body(client.trace(made), "pump-days");
        // The day of a place three hours behind Greenwich begins at three; 24 hours of a running pump are some 1,000
        // m³.
        long day = Instant.parse("2026-04-11T03:00:00Z").toEpochMilli();
        assertThat(line).contains("PH12,per=day ", "kilowattHours=").endsWith(" " + day + "000000");
        assertThat(Double.parseDouble(line.replaceAll(".*cubicMetres=([0-9.]+).*", "$1")))
                .isBetween(300.0, 1_130.0);
    }

    private static JsonNode lane(JsonNode trace, String name) {
        return trace.path("lanes")
                .valueStream()
                .filter(lane -> lane.path("lane").asString().equals(name))
                .findFirst()
                .orElseThrow();
    }

    @Test
    void aMastThatPostsEachFieldByItselfIsJoinedIntoOne() {
        Orchards.Place mast = Orchards.masts().get(4);
        List<JsonNode> pieces = devices.mast(mast, NIGHT).stream()
                .map(body -> sent("weather-masts", body))
                .toList();

        String made = Client.await(
                        () -> lane(
                                client.trace(pieces.getFirst().at("/message/id").asString()), "mast-board"),
                        lane -> !lane.path("into").isNull())
                .path("into")
                .asString();

        assertThat(pieces).hasSize(4);
        assertThat(body(client.trace(made), "mast-board"))
                .contains("\"mast\":\"wm-05\"")
                .contains("\"kmh\":")
                .contains("\"inversion\":");
        assertThat(client.trace(made).path("madeOf")).hasSize(4);
    }

    @Test
    void aMastsReportIsALineOfATable() {
        JsonNode trace = sent(
                "weather-masts",
                "{\"mast\":\"wm-01\",\"at\":\"2026-04-12T03:20:00Z\",\"air\":-1.5,\"wind\":{\"speed\":2}}"
                        .getBytes(StandardCharsets.UTF_8));

        assertThat(body(trace, "mast-report")).isEqualTo("wm-01,2026-04-12 03:20,-1.5,2,\n");
    }

    @Test
    void aGaugeIsDecodedByItsLayoutInMillimetres() {
        Orchards.Place gauge = Orchards.gauges().getFirst();
        JsonNode trace = null;
        for (int hour = 0; hour < 12; hour++) {
            trace = sent(
                    "network-server",
                    devices.gauge(gauge, NIGHT.plus(Duration.ofHours(hour)), 1).getFirst());
        }

        assertThat(trace.at("/data/rainTotal").asDouble()).isPositive();
        assertThat(trace.at("/units/rainTotal").asString()).isEqualTo("mm");
    }

    @Test
    void aProbeAppearsWithItsModelAndThreePointsAndABrokenSensorIsAbsent() {
        JsonNode trace =
                sent("network-server", devices.probe(place("sp-07"), NIGHT).getFirst());

        assertThat(trace.at("/data/moisture60").asDouble()).isBetween(10.0, 60.0);
        assertThat(trace.at("/data").has("temperature60")).isFalse();
        assertThat(trace.at("/device/points")).hasSize(3);
        assertThat(trace.at("/device/points/depth-30/facts/centimetres").asInt())
                .isEqualTo(30);
        assertThat(client.get("/api/v1/devices/one?key=sp-07").path("model").asString())
                .isEqualTo("soil-probe");
    }

    private static Orchards.Place place(String key) {
        return Orchards.probes().stream()
                .filter(probe -> probe.key().equals(key))
                .findFirst()
                .orElseThrow();
    }

    @Test
    void aMastWhoseClockWasSetToTheTimeOnTheWallIsFlagged() {
        Orchards.Place ahead = Orchards.masts().get(3);

        JsonNode trace =
                sent("weather-masts", devices.mast(ahead, Instant.now()).getFirst());

        assertThat(trace.at("/message/device").asString()).isEqualTo("wm-04");
        assertThat(trace.at("/meta/clock").asString()).isEqualTo("ahead");
        assertThat(trace.at("/message/reason").asString())
                .contains("the device's clock is ahead, or its time zone wrong");
    }

    @Test
    void statusesAndFaultsAreToldApartFromReadingsAndCopiesFromFirsts() {
        Set<String> types = new TreeSet<>();
        Set<String> states = new TreeSet<>();
        List<JsonNode> faults = new ArrayList<>();
        for (int minute = 0; minute < 400 && (types.size() < 3 || states.size() < 2); minute++) {
            Instant at = NIGHT.plus(Duration.ofMinutes(minute));
            for (byte[] body : devices.station(Orchards.stations().get(minute % 60), at)) {
                JsonNode message = sent("network-server", body).path("message");
                types.add(message.path("type").asString());
                states.add(message.path("state").asString());
                if (message.path("type").asString().equals("fault")) {
                    faults.add(message);
                }
            }
        }

        assertThat(types).containsExactly("fault", "reading", "status");
        assertThat(states).containsExactly("duplicate", "read");
        assertThat(faults.getFirst().path("lanes")).isEmpty();
        assertThat(client.get("/api/v1/balance").path("missing").asInt()).isZero();
    }
}
