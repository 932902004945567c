package org.holtra.service.introducing;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import org.holtra.service.support.Client;
import org.holtra.service.support.SharedServiceTest;
import org.holtra.standins.cloud.Cloud;
import org.holtra.standins.cloud.CloudDevice;
import org.holtra.standins.cloud.CloudServer;
import org.holtra.standins.cloud.Right;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Devices are made known at a cloud that refuses those it does not know. */
class IntroductionTest extends SharedServiceTest implements CloudTest {

    private static int tests;

    /** Each test has an outlet of its own: how devices stand there outlives the setup. */
    private final String outlet = "cloud-" + ++tests;

    private final String at = "/api/v1/outlets/" + outlet + "/";

    private final Cloud cloud = new Cloud(new Random(1));
    private CloudServer server;

    @BeforeEach
    void adopt() throws IOException {
        server = new CloudServer(cloud, 0, "cloud-token");
        client.save("cloud", Map.of("form", "bearer", "token", "cloud-token"));
        adopt("");
    }

    @AfterEach
    void close() {
        server.close();
    }

    private void adopt(String more) {
        Client.good(client.adopt(setup(more)));
    }

    private String setup(String more) {
        return CloudSetup.of(server.port(), more)
                .replace("  cloud:\n", "  " + outlet + ":\n")
                .replace("outlet: cloud", "outlet: " + outlet);
    }

    @Override
    public Client client() {
        return client;
    }

    @Override
    public String outlet() {
        return outlet;
    }

    @Override
    public Cloud cloud() {
        return cloud;
    }

    @Test
    void aDeviceIsCreatedActivatedAndDescribedAndThenItsMessagesGoInOrder() {
        for (int n = 0; n < 20; n++) {
            send("a", n);
        }

        Client.await(() -> bodies("a").size(), size -> size == 20);
        for (int n = 0; n < 20; n++) {
            assertThat(bodies("a").get(n)).isEqualTo("{\"n\":" + n + "}");
        }
        CloudDevice there = cloud.byKey("a").orElseThrow();
        assertThat(there.shown()).containsEntry("state", "active");
        assertThat(there.described().toString()).contains("temperature", "Cel", "north");
        assertThat(device("a").path("id").asString()).isEqualTo(there.id());
        assertThat(client.get(at + "made").path("made").toString())
                .contains("device", "description", "credential")
                .doesNotContain(there.token());
        assertThat(cloud.creations()).isEqualTo(1);
    }

    @Test
    void oneThatIsThereAlreadyIsNotCreated() throws Exception {
        cloud.create("a", "a");
        cloud.change(
                cloud.byKey("a").orElseThrow().id(),
                one -> new CloudDevice(one.id(), one.key(), one.name(), true, false, one.token(), null));

        String id = send("a", 1);

        becomes(id, "delivered");
        assertThat(cloud.creations()).isEqualTo(1);
        assertThat(device("a").path("existed").asBoolean()).isTrue();
        assertThat(client.get(at + "made").path("made")).isEmpty();
    }

    @Test
    void aMissingRightIsNamedAndStopsOnlyUntilItIsGranted() {
        cloud.grant(EnumSet.of(Right.READ_DEVICES, Right.WRITE_MEASUREMENTS));
        List<String> ids = List.of(send("a", 1), send("b", 2), send("c", 3), send("a", 4));

        JsonNode page = Client.await(
                this::introductions, one -> !one.path("standsStill").isNull());
        assertThat(page.path("standsStill").asString())
                .contains("create", "the right to create devices", "the token lacks the right devices:write");
        assertThat(Client.state(client.trace(ids.getFirst()))).isEqualTo("waiting");
        assertThat(cloud.devices()).isEmpty();

        cloud.grant(EnumSet.allOf(Right.class));
        Client.good(client.post(at + "introductions/resume", Map.of()));

        ids.forEach(id -> becomes(id, "delivered"));
        assertThat(bodies("a")).containsExactly("{\"n\":1}", "{\"n\":4}");
        assertThat(cloud.creations()).isEqualTo(3);
        assertThat(introductions().path("standsStill").isNull()).isTrue();
    }

    @Test
    void aTakenNameIsToldAndMendedByAPrefixWhileOthersFlow() throws Exception {
        cloud.create("somebody-elses", "a");
        String waits = send("a", 1);
        becomes(send("b", 2), "delivered");

        JsonNode refused = becomes("a", "refused", "name taken");
        assertThat(refused.path("reason").asString()).contains("409", "the name a is taken");
        assertThat(client.trace(waits).toString()).contains("its introduction at " + outlet + " was refused: create");

        adopt("name: \"larkmoor-${device.key}\"");

        becomes(waits, "delivered");
        assertThat(cloud.byKey("a").orElseThrow().name()).isEqualTo("larkmoor-a");
        assertThat(cloud.byKey("b").orElseThrow().name()).isEqualTo("b");
    }

    @Test
    void aDeviceThatLacksAFactIsIntroducedOnceTheFactIsKnown() {
        Client.good(client.put("/api/v1/devices/one?key=a", Map.of("model", "station")));
        String id = send("a", 1);

        JsonNode refused = becomes("a", "refused", "lacks a fact");
        assertThat(refused.path("reason").asString()).contains("device.facts.site");
        assertThat(cloud.devices()).isEmpty();
        Client.good(
                client.put("/api/v1/devices/one?key=a", Map.of("model", "station", "facts", Map.of("site", "south"))));

        becomes(id, "delivered");
        assertThat(cloud.creations()).isEqualTo(1);
    }

    @Test
    void oneThatWasDeletedThereIsIntroducedOnceMoreAndItsMessageArrives() {
        becomes(send("a", 1), "delivered");
        cloud.remove(cloud.byKey("a").orElseThrow().id());

        String id = send("a", 2);

        JsonNode trace = becomes(id, "delivered");
        assertThat(trace.toString()).contains("device unknown");
        assertThat(cloud.creations()).isEqualTo(2);
    }

    @Test
    void aDestinationThatNeverKnowsADeviceIsNotAskedForEver() {
        adopt("atOnce: 1");
        Client.good(client.adopt(
                setup("").replace("/devices/${there.id}/measurements", "/devices/${there.id}x/measurements")));
        send("a", 1);

        JsonNode refused = becomes("a", "refused", "gone there");
        assertThat(refused.path("reason").asString()).contains("introduced once more", "404");
        assertThat(cloud.creations()).isEqualTo(1);
    }

    @Test
    void whatWasCreatedAndNotAnsweredIsFoundAndNotCreatedTwice() {
        Client.good(client.adopt(setup("").replace("secret: answer.body.token", "")));
        server.keepSilent(1);

        becomes(send("a", 1), "delivered");

        assertThat(cloud.creations()).isEqualTo(1);
        assertThat(cloud.devices()).hasSize(1);
        assertThat(client.get(at + "made").path("made").toString()).contains("\"what\":\"device\"");
    }

    @Test
    void aDeviceWhoseSecretWasLostWithTheAnswerIsMadeAnew() {
        cloud.wantOwnTokens(true);
        server.keepSilent(1);

        becomes(send("a", 1), "delivered");

        assertThat(cloud.creations()).isEqualTo(2);
        assertThat(cloud.devices()).hasSize(1);
        assertThat(device("a").path("ownCredential").asBoolean()).isTrue();
        assertThat(client.get(at + "made").path("made").toString())
                .contains(cloud.devices().getFirst().id())
                .doesNotContain("d-1000");
    }

    @Test
    void aRemovalThatLacksARightSaysSoAndGoesOnWhenItIsGranted() {
        becomes(send("a", 1), "delivered");
        becomes(send("b", 1), "delivered");
        cloud.grant(EnumSet.of(Right.READ_DEVICES, Right.WRITE_MEASUREMENTS));

        JsonNode begun = Client.good(client.post(at + "made/remove", Map.of())).json();
        Client.await(
                () -> client.get("/api/v1/jobs/" + begun.path("id").asString())
                        .path("note")
                        .asString(""),
                note -> note.contains("waits: ") && note.contains("devices:write"));
        assertThat(introductions().path("standsStill").asString()).startsWith("remove: ");
        cloud.grant(EnumSet.allOf(Right.class));
        Client.good(client.post(at + "introductions/resume", Map.of()));

        Client.await(cloud::devices, List::isEmpty);
        Client.await(() -> introductions().path("introductions"), JsonNode::isEmpty);
        assertThat(cloud.creations()).isEqualTo(2);
    }

    @Test
    void removalsGoOnThoughCreationsLackARight() {
        becomes(send("a", 1), "delivered");
        cloud.limit(1);
        send("b", 1);
        becomes("b", "refused", "quota");
        send("c", 1);

        job(Client.good(client.post(at + "made/remove", Map.of("keys", List.of("a"))))
                .json());

        assertThat(cloud.byKey("a")).isEmpty();
    }

    @Test
    void whatNobodyWantsAnyLongerIsNotMadeAfterARemoval() {
        becomes(send("a", 1), "delivered");
        cloud.limit(1);
        send("b", 1);
        becomes("b", "refused", "quota");
        Client.good(client.adopt(setup("").replace("order: device", "state: closed")));

        job(Client.good(client.post(at + "made/remove", Map.of())).json());

        Client.await(() -> introductions().path("introductions"), JsonNode::isEmpty);
        assertThat(cloud.devices()).isEmpty();
    }

    @Test
    void aDestinationInTroubleIsAskedAgain() {
        server.fail(503, 3);

        becomes(send("a", 1), "delivered");

        assertThat(cloud.creations()).isEqualTo(1);
    }

    @Test
    void aQuotaHoldsThoseBeyondIt() {
        cloud.limit(1);
        becomes(send("a", 1), "delivered");
        String waits = send("b", 2);

        JsonNode page = Client.await(
                this::introductions, one -> !one.path("standsStill").isNull());
        assertThat(page.path("standsStill").asString()).contains("402", "room for 1 devices");
        cloud.limit(5);
        Client.good(client.post(at + "introductions/resume", Map.of()));

        becomes(waits, "delivered");
    }

    @Test
    void manyAreIntroducedAsAJobAndRemovedAgainWithNothingLeft() {
        for (int n = 0; n < 30; n++) {
            Client.good(client.put(
                    "/api/v1/devices/one?key=d-" + n, Map.of("model", "station", "facts", Map.of("site", "s"))));
        }
        JsonNode done =
                job(client.post(at + "introductions", Map.of("pattern", "d-*")).json());
        assertThat(done.path("note").asString()).isEqualTo("30 known");
        assertThat(done.path("done").asInt()).isEqualTo(30);
        assertThat(cloud.devices()).hasSize(30);

        JsonNode some = job(client.post(at + "made/remove", Map.of("keys", List.of("d-0", "d-1")))
                .json());
        assertThat(some.path("done").asInt()).isEqualTo(2);
        assertThat(cloud.devices()).hasSize(28);
        job(client.post(at + "made/remove", Map.of()).json());

        assertThat(cloud.devices()).isEmpty();
        assertThat(client.get(at + "made").path("made")).isEmpty();
        assertThat(introductions().path("introductions")).isEmpty();
    }

    @Test
    void aPauseHoldsUntilSomebodyHasItGoOn() {
        Client.good(client.post(at + "introductions/pause", Map.of()));
        Client.await(this::introductions, page -> !page.path("paused").isNull());
        // The node that introduces takes note within a second, and nothing is under way.
        String id = Client.await(() -> send("a", 1), sent -> true);
        Client.await(() -> device("a"), one -> one.path("state").asString("").equals("waiting"));

        Client.good(client.post(at + "introductions/resume", Map.of()));

        becomes(id, "delivered");
    }

    @Test
    void aDryRunTellsWhatWouldBecomeOfEachAndChangesNothing() throws Exception {
        for (String key : List.of("dry-1", "dry-2", "dry-there", "dry-taken")) {
            Client.good(client.put(
                    "/api/v1/devices/one?key=" + key, Map.of("model", "station", "facts", Map.of("site", "s"))));
        }
        Client.good(client.put("/api/v1/devices/one?key=dry-bare", Map.of("model", "station")));
        cloud.create("dry-there", "dry-there");
        cloud.create("somebody-elses", "dry-taken");

        JsonNode report = Client.good(client.post(at + "introductions/dry-run", Map.of("pattern", "dry-*")))
                .json();

        assertThat(report.path("counts").toString())
                .isEqualTo("{\"exists already\":1,\"would create\":2,\"name taken\":1,\"lacks a fact\":1}");
        assertThat(report.path("monthly").asDouble()).isEqualTo(1.0);
        assertThat(report.path("findings").toString())
                .contains("device.facts.site", "another device there is called dry-taken");
        assertThat(cloud.creations()).isEqualTo(2);
        assertThat(introductions().path("introductions")).isEmpty();
        JsonNode one = client.post(at + "introductions/dry-run", Map.of("where", "device.key == 'dry-1'"))
                .json();
        assertThat(one.path("chosen").asInt()).isEqualTo(1);
        assertThat(client.post(at + "introductions/dry-run", Map.of("where", "device.key =="))
                        .status())
                .isEqualTo(400);
    }

    @Test
    void aRecipeIsTriedStepByStepAndNothingIsSentUntilSaid() {
        Client.good(client.put("/api/v1/devices/one?key=a", Map.of("model", "station", "facts", Map.of("site", "s"))));
        JsonNode plan = Client.good(client.post(at + "introductions/plan", Map.of("device", "a")))
                .json();
        assertThat(plan.path("steps").get(0).path("request").asString()).endsWith("/devices?key=a");
        assertThat(plan.path("steps").get(0).path("isNext").asBoolean()).isTrue();
        assertThat(plan.path("steps").get(2).path("body").asString()).isEqualTo("{\"key\":\"a\",\"name\":\"a\"}");

        JsonNode found = Client.good(client.post(at + "introductions/step", Map.of("device", "a")))
                .json();
        assertThat(found.path("step").asString()).isEqualTo("find");
        assertThat(found.path("outcome").asString()).isEqualTo("absent");
        assertThat(cloud.devices()).isEmpty();
        JsonNode created = Client.good(client.post(at + "introductions/step", Map.of("device", "a")))
                .json();
        assertThat(created.path("step").asString()).isEqualTo("create");
        String token = cloud.byKey("a").orElseThrow().token();
        assertThat(created.path("answer").asString()).contains("•••").doesNotContain(token);
        Client.good(client.post(at + "introductions/step", Map.of("device", "a")));
        JsonNode last = Client.good(client.post(at + "introductions/step", Map.of("device", "a")))
                .json();

        assertThat(last.at("/now/state").asString()).isEqualTo("known");
        assertThat(client.post(at + "introductions/step", Map.of("device", "a")).status())
                .isEqualTo(409);
        assertThat(cloud.creations()).isEqualTo(1);
    }

    @Test
    void aDeviceInAPersonsHandGoesOnByItselfWhenAJobTakesIt() {
        Client.good(client.put("/api/v1/devices/one?key=a", Map.of("model", "station", "facts", Map.of("site", "s"))));
        Client.good(client.post(at + "introductions/step", Map.of("device", "a")));
        Client.good(client.post(at + "introductions/step", Map.of("device", "a")));

        job(client.post(at + "introductions", Map.of("keys", List.of("a"))).json());

        assertThat(device("a").path("state").asString()).isEqualTo("known");
        assertThat(cloud.creations()).isEqualTo(1);
    }

    @Test
    void theDestinationsRegistryIsImportedWithAPreviewFirst() throws Exception {
        cloud.create("old-x", "north gate");
        cloud.create("y", "south gate");
        Client.good(client.put("/api/v1/devices/one?key=y", Map.of("facts", Map.of("label", "ours"))));

        JsonNode preview = Client.good(client.post(at + "introductions/import", Map.of("dry", true)))
                .json();
        assertThat(preview.path("there").asInt()).isEqualTo(2);
        assertThat(preview.path("unknown").asInt()).isEqualTo(1);
        assertThat(client.call("GET", "/api/v1/devices/one?key=x", null, "Authorization", "Bearer " + service.key())
                        .status())
                .isEqualTo(404);

        Client.good(client.post(at + "introductions/import", Map.of("dry", false, "model", "station")));

        JsonNode entered = client.get("/api/v1/devices/one?key=x");
        assertThat(entered.path("model").asString()).isEqualTo("station");
        assertThat(entered.at("/facts/label").asString()).isEqualTo("north gate");
        assertThat(client.get("/api/v1/devices/one?key=y").at("/facts/label").asString())
                .isEqualTo("ours");
        assertThat(device("x").path("state").asString()).isEqualTo("known");
        assertThat(device("x").path("existed").asBoolean()).isTrue();
        assertThat(client.get(at + "made").path("made")).isEmpty();
    }

    @Test
    void theCheckNamesTheMissingRightBeforeAnyMessageFails() {
        cloud.grant(EnumSet.of(Right.READ_DEVICES, Right.WRITE_MEASUREMENTS, Right.MANAGE_USERS));

        JsonNode steps = Client.good(client.post(at + "check", Map.of())).json();

        assertThat(steps.toString())
                .contains("right to read devices", "right to create devices", "devices:write", "users:manage")
                .contains("needed: read devices, create devices, write measurements");
        Map<String, String> results = new java.util.HashMap<>();
        steps.forEach(step ->
                results.put(step.path("step").asString(), step.path("result").asString()));
        assertThat(results)
                .containsEntry("right to read devices", "passed")
                .containsEntry("right to create devices", "failed");
        assertThat(cloud.devices()).isEmpty();
    }

    @Test
    void aComparisonTellsWhatIsOtherwiseThere() {
        for (String key : List.of("same", "gone", "renamed", "off")) {
            becomes(send(key, 1), "delivered");
        }
        cloud.remove(cloud.byKey("gone").orElseThrow().id());
        cloud.change(
                cloud.byKey("renamed").orElseThrow().id(),
                one -> new CloudDevice(one.id(), one.key(), "other", true, false, one.token(), one.described()));
        cloud.change(
                cloud.byKey("off").orElseThrow().id(),
                one -> new CloudDevice(one.id(), one.key(), one.name(), true, true, one.token(), one.described()));

        JsonNode done = job(client.post(at + "made/compare", Map.of()).json());

        assertThat(done.path("note").asString()).isEqualTo("3 of 4 otherwise than we made them");
        Map<String, String> differs = new java.util.HashMap<>();
        client.get(at + "made")
                .path("made")
                .forEach(one -> differs.put(
                        one.path("device").asString(), one.path("differs").toString()));
        assertThat(differs)
                .containsEntry("same", "[]")
                .containsEntry("gone", "[\"deleted there\"]")
                .containsEntry("renamed", "[\"renamed\"]")
                .containsEntry("off", "[\"disabled there\"]");
    }

    @Test
    void lanesAreToldWhatIsKnownAndHeldAtAnOutlet() throws Exception {
        Client.good(client.adopt(setup("")
                        .replace(
                                "outlets:", "outlets:\n  told: {kind: http, to: {url: \"" + receiver.address() + "\"}}")
                + "  news:\n    inlets: [holtra]\n    pick: meta.type == 'status'\n    outlet: told\n"));
        cloud.create("somebody-elses", "b");

        send("a", 1);
        send("b", 1);

        Client.await(
                () -> receiver.came().stream().map(came -> came.body()).toList(),
                bodies -> bodies.stream().anyMatch(body -> body.contains("known at an outlet") && body.contains("d-"))
                        && bodies.stream()
                                .anyMatch(body -> body.contains("held at an outlet") && body.contains("taken")));
    }

    @Test
    void anOutletThatMadeDevicesIsNotRemovedUnasked() {
        becomes(send("a", 1), "delivered");

        Client.Answer refused = adoptNothing("refuse");

        assertThat(refused.status()).isEqualTo(409);
        assertThat(refused.json().path("why").asString()).isEqualTo("made");
        assertThat(refused.json().at("/made/" + outlet).asInt()).isEqualTo(1);
        Client.good(adoptNothing("leave"));
        assertThat(client.get(at + "made").path("made")).isNotEmpty();
    }

    private Client.Answer adoptNothing(String waiting) {
        return client.keyed(
                "POST",
                "/api/v1/setup/adopt?waiting=" + waiting,
                "inlets: {}".getBytes(java.nio.charset.StandardCharsets.UTF_8),
                "application/yaml");
    }

    @Test
    void devicesThatStayRefusedAreTroubleOfHoltrasOwn() throws Exception {
        cloud.create("somebody-elses", "a");
        send("a", 1);

        JsonNode status = Client.await(
                () -> client.get("/api/v1/status").path("troubles"),
                troubles -> troubles.toString().contains("at outlet " + outlet));
        assertThat(status.toString()).contains("1 device is not introduced at outlet " + outlet, "the name a is taken");
    }

    @Test
    void aRecipeIsCheckedWithTheSetup() {
        String wrong = setup("").replace("key: \"${device.key}\", name", "key: \"${data.n}\", name");

        assertThat(client.adopt(wrong).body()).contains("is of a message, and a recipe sees none");
        assertThat(client.adopt("""
                outlets:
                  f: {kind: file, to: {folder: out, form: lines}, introduction: {find: {shape: {}}}}
                """).body()).contains("cannot introduce devices");
        assertThat(client.adopt("""
                outlets:
                  h: {kind: http, to: {url: "http://127.0.0.1:1"}, introduction: {atOnce: 2}}
                """).body()).contains("one of the steps find, create, activate and describe");
        assertThat(Set.of(introductions().path("recipe").asBoolean())).containsExactly(true);
    }
}
