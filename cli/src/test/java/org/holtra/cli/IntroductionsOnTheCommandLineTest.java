package org.holtra.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.util.EnumSet;
import java.util.Map;
import java.util.Random;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestDatabase;
import org.holtra.service.support.TestService;
import org.holtra.standins.cloud.Cloud;
import org.holtra.standins.cloud.CloudServer;
import org.holtra.standins.cloud.Right;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Devices made known at a cloud that refuses strangers, by commands. */
class IntroductionsOnTheCommandLineTest extends AsProcess {

    private static final Cloud CLOUD = new Cloud(new Random(1));
    private static CloudServer server;

    @BeforeAll
    static void start() throws IOException {
        service = TestService.start(TestDatabase.fresh());
        Client client = service.client();
        server = new CloudServer(CLOUD, 0, "cloud-token");
        client.save("cloud", Map.of("form", "bearer", "token", "cloud-token"));
        client.save(
                "grower",
                Map.of(
                        "form", "grant",
                        "authorizeUrl", "http://127.0.0.1:1/authorize",
                        "tokenUrl", "http://127.0.0.1:1/token",
                        "clientId", "holtra"));
        Client.good(client.adopt("""
                outlets:
                  cloud:
                    kind: http
                    to: {url: "http://127.0.0.1:%d", credential: cloud}
                    introduction:
                      find: {shape: {method: GET, path: "/devices", query: {key: "${device.key}"}}, id: "answer.body.items[0].id"}
                      create: {right: create devices, shape: {path: /devices, body: {key: "${device.key}", name: "${device.key}"}}, id: answer.body.id}
                      compare: {shape: {method: GET, path: "/devices/${there.id}"}, differs: {renamed: answer.body.name != there.name}}
                      remove: {shape: {method: DELETE, path: "/devices/${there.id}"}}
                      list: {shape: {method: GET, path: /devices}, items: answer.body.items, key: item.key, idThere: item.id}
                """.formatted(server.port())));
        for (String key : new String[] {"cs-1", "cs-2", "sp-1"}) {
            Client.good(client.put("/api/v1/devices/one?key=" + key, Map.of()));
        }
    }

    @AfterAll
    static void end() {
        server.close();
        service.close();
    }

    private Ran introduction(String... arguments) throws Exception {
        String[] all = new String[arguments.length + 1];
        all[0] = "introduction";
        System.arraycopy(arguments, 0, all, 1, arguments.length);
        return run(access(), "", all);
    }

    @Test
    void devicesAreTriedIntroducedComparedAndRemovedAgain() throws Exception {
        assertThat(introduction("list", "cloud").out()).contains("No device was introduced yet");
        assertThat(introduction("dry-run", "cloud", "--pattern", "cs-*").out())
                .containsPattern("would create +2")
                .contains("Nothing was changed there");
        assertThat(introduction("plan", "cloud", "cs-1").out())
                .contains(
                        "create",
                        "needs the right to create devices",
                        "{\"key\":\"cs-1\",\"name\":\"cs-1\"}",
                        "Nothing was sent");

        CLOUD.grant(EnumSet.of(Right.READ_DEVICES));
        introduction("step", "cloud", "cs-1");
        Ran refused = introduction("step", "cloud", "cs-1");
        assertThat(refused.exit()).isEqualTo(Holtra.NOT_WELL);
        assertThat(refused.out()).contains("right missing", "the token lacks the right devices:write");
        CLOUD.grant(EnumSet.allOf(Right.class));

        Ran begun = introduction("begin", "cloud", "--all");
        assertThat(begun.exit()).isZero();
        assertThat(begun.out()).contains("is done: 3 known");
        assertThat(introduction("list", "cloud", "--state", "known").out()).contains("cs-1", "sp-1", "3 made by us");
        assertThat(introduction("show", "cloud", "cs-2").out()).contains("known");

        CLOUD.change(
                CLOUD.byKey("cs-2").orElseThrow().id(),
                one -> new org.holtra.standins.cloud.CloudDevice(
                        one.id(), one.key(), "other", true, false, one.token(), null));
        assertThat(introduction("compare", "cloud").out()).contains("1 of 3 otherwise than we made them");
        assertThat(introduction("made", "cloud", "--differing").out())
                .contains("cs-2", "renamed")
                .doesNotContain("sp-1");

        assertThat(introduction("remove", "cloud", "--device", "cs-2").out()).contains("1 device", "--go removes it");
        assertThat(CLOUD.devices()).hasSize(3);
        introduction("remove", "cloud", "--all", "--go");
        assertThat(CLOUD.devices()).isEmpty();
        assertThat(introduction("made", "cloud").out()).contains("Nothing of ours is there");

        CLOUD.create("new-1", "new-1");
        assertThat(introduction("import", "cloud").out()).contains("1 of them not here yet", "None was entered");
        assertThat(introduction("import", "cloud", "--go").out()).contains("1 were entered");
    }

    @Test
    void aLinkForAnOwnerIsMadeAndTheTokenIsToldInTheList() throws Exception {
        assertThat(run(access(), "", "credential", "link", "grower").out()).contains("/grants/", "It serves once");
        assertThat(run(access(), "", "credential", "list").out()).contains("grower", "grant");
        assertThat(run(access(), "", "credential", "link", "cloud").exit()).isEqualTo(Holtra.REFUSED);
    }

    @Test
    void introductionsPauseAndGoOn() throws Exception {
        assertThat(introduction("pause", "cloud").out()).contains("are paused");
        assertThat(introduction("list", "cloud").out()).contains("Paused by");
        assertThat(introduction("resume", "cloud").out()).contains("go on");
    }
}
