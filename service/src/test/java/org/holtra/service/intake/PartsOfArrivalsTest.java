package org.holtra.service.intake;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Transport;
import org.holtra.service.spool.Spool;
import org.holtra.service.support.Client;
import org.holtra.service.support.SharedServiceTest;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** An arrival that holds several messages is kept as it came, and each of them is a message like any other. */
class PartsOfArrivalsTest extends SharedServiceTest {

    private static final String GATEWAY = """
            {"gateway":"g1","readings":[
              {"id":"m1","at":"2026-04-12T03:00:00Z","v":1},
              {"id":"m2","at":"2026-04-12T03:00:00Z","v":2},
              {"id":"m1","at":"2026-04-12T03:01:00Z","v":3}]}
            """;

    private void adopt(String inlet) {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, %s}
                outlets:
                  o: {kind: http, to: {url: "%s/"}}
                lanes:
                  l: {inlets: [i], outlet: o, order: device, shape: {body: {of: "${device.key}", v: "${data.v}", by: "${meta.whole.gateway}"}}}
                """.formatted(inlet, receiver.address())));
    }

    private void adopt() {
        adopt("device: data.id, time: data.at, parts: data.readings");
    }

    private JsonNode balance() {
        return Client.await(
                () -> client.get("/api/v1/balance?from=2026-01-01T00:00:00Z&to="
                        + Instant.now().plusSeconds(3_600)),
                balance -> balance.at("/intake/unacknowledged").asInt() == 0);
    }

    private List<String> bodies(int count) {
        Client.await(() -> receiver.came().size(), size -> size >= count);
        return receiver.came().stream().map(came -> came.body()).toList();
    }

    @Test
    void eachPartIsReadPickedAndDelivered() {
        adopt();
        String whole = client.send("i", GATEWAY);

        assertThat(bodies(3))
                .containsExactlyInAnyOrder(
                        "{\"of\":\"m1\",\"v\":1,\"by\":\"g1\"}",
                        "{\"of\":\"m2\",\"v\":2,\"by\":\"g1\"}",
                        "{\"of\":\"m1\",\"v\":3,\"by\":\"g1\"}");
        JsonNode trace = client.trace(whole);
        assertThat(trace.at("/message/state").asString()).isEqualTo("whole");
        assertThat(trace.at("/message/reason").asString()).isEqualTo("taken apart into 3 messages");
        assertThat(trace.path("parts").valueStream())
                .extracting(part -> part.path("device").asString())
                .containsExactly("m1", "m2", "m1");
        String part = trace.at("/parts/2/id").asString();
        assertThat(client.trace(part).path("whole").asString()).isEqualTo(whole);
        assertThat(client.get("/api/v1/devices/one?key=m1")
                        .at("/values/v/value")
                        .asInt())
                .isEqualTo(3);
    }

    @Test
    void theBalanceCountsArrivalsAndWhatWasInThem() {
        adopt();
        client.send("i", GATEWAY);
        client.send("i", "{\"readings\":[]}");
        bodies(3);

        JsonNode intake = balance().path("intake");

        assertThat(intake.path("acknowledged").asInt()).isEqualTo(2);
        assertThat(intake.path("whole").asInt()).isEqualTo(2);
        assertThat(intake.path("parts").asInt()).isEqualTo(3);
        assertThat(intake.path("read").asInt()).isEqualTo(3);
        assertThat(balance().path("missing").asInt()).isZero();
    }

    @Test
    void aPartThatCannotBeReadDoesNotHarmTheOthers() {
        adopt();
        String whole = client.send(
                "i",
                "{\"gateway\":\"g\",\"readings\":[{\"id\":\"a\",\"v\":1},{\"v\":2},7,{\"id\":\"z\\u0000\",\"v\":3},{\"id\":\"b\",\"v\":4}]}");

        bodies(2);

        assertThat(client.trace(whole).path("parts").valueStream())
                .extracting(part -> part.path("state").asString())
                .containsExactly("read", "unreadable", "unreadable", "unreadable", "read");
        assertThat(balance().path("missing").asInt()).isZero();
    }

    @Test
    void whatHasNoListIsKeptAndTakenApartOnceTheInletIsMended() {
        adopt("device: data.id, parts: data.measurements");
        String whole = client.send("i", GATEWAY);
        assertThat(client.trace(whole).at("/message/reason").asString())
                .isEqualTo("its parts could not be told: data.measurements is not there");
        adopt();

        String order = Client.good(client.post(
                        "/api/v1/rereadings",
                        Map.of("from", Instant.now().minusSeconds(600).toString(), "inlet", "i")))
                .json()
                .path("id")
                .asString();
        Client.await(
                () -> client.get("/api/v1/rereadings/" + order),
                progress -> !progress.path("ended").isNull());

        bodies(3);
        assertThat(client.trace(whole).at("/message/state").asString()).isEqualTo("whole");
        assertThat(client.trace(whole).path("parts")).hasSize(3);
        assertThat(balance().path("missing").asInt()).isZero();
    }

    @Test
    void theSamePartInTwoArrivalsIsADuplicate() {
        adopt("device: data.id, time: data.at, parts: data.readings, duplicates: {same: 'string(data.at)'}");
        client.send("i", GATEWAY);
        String again = client.send("i", GATEWAY);

        assertThat(client.trace(again).path("parts").valueStream())
                .extracting(part -> part.path("state").asString())
                .containsOnly("duplicate");
        assertThat(bodies(3)).hasSize(3);
        assertThat(balance().path("missing").asInt()).isZero();
    }

    @Test
    void theSamePartTwiceInOneArrivalIsADuplicateToo() {
        adopt("device: data.id, parts: data, duplicates: {same: 'string(data.v)'}");
        String whole = client.send("i", "[{\"id\":\"a\",\"v\":1},{\"id\":\"a\",\"v\":1},{\"id\":\"a\",\"v\":2}]");

        assertThat(client.trace(whole).path("parts").valueStream())
                .extracting(part -> part.path("state").asString())
                .containsExactly("read", "duplicate", "read");
        assertThat(balance().path("missing").asInt()).isZero();
    }

    @Test
    void partsOfWhatWasSpooledAreTakenOutWhenItIsDrained() {
        adopt();
        Intake intake = service.bean(Intake.class);
        Arrival arrival = new Arrival(
                intake.nextId(), "i", Transport.of("127.0.0.1", "/in/i"), "application/json", GATEWAY.getBytes());
        intake.acknowledged(new Receipt(arrival.id(), false), "i");
        service.bean(Spool.class).keep(arrival).join();

        assertThat(bodies(3)).hasSize(3);
        assertThat(client.trace(arrival.id().toString()).path("parts")).hasSize(3);
        assertThat(balance().path("missing").asInt()).isZero();
    }
}
