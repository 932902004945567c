package org.holtra.standins.cloud;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Path;
import java.util.Map;
import java.util.Random;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

class CloudServerTest {

    private final Cloud cloud = new Cloud(new Random(1));
    private final HttpClient client = HttpClient.newHttpClient();
    private CloudServer server;

    @BeforeEach
    void start() throws IOException {
        server = new CloudServer(cloud, 0, "token");
    }

    @AfterEach
    void stop() {
        server.close();
    }

    private HttpResponse<String> call(String method, String path, String body, String token) throws Exception {
        return client.send(
                HttpRequest.newBuilder(URI.create("http://127.0.0.1:" + server.port() + path))
                        .header("Authorization", "Bearer " + token)
                        .header("Idempotency-Key", path + body)
                        .method(method, HttpRequest.BodyPublishers.ofString(body))
                        .build(),
                HttpResponse.BodyHandlers.ofString());
    }

    private int status(String method, String path, String body) throws Exception {
        return call(method, path, body, "token").statusCode();
    }

    private JsonNode created(String key) throws Exception {
        return JsonMapper.shared()
                .readTree(call("POST", "/devices", "{\"key\":\"" + key + "\",\"name\":\"" + key + "\"}", "token")
                        .body());
    }

    private void mood(String wish) throws Exception {
        assertThat(status("POST", "/mood", wish)).isEqualTo(200);
    }

    @Test
    void devicesAreKnownAfterAStartAndAnIdIsNotGivenTwice(@TempDir Path folder) throws Exception {
        Registry registry = new Registry(folder.resolve("cloud.json"));
        Cloud before = new Cloud(new Random(1), registry);
        CloudDevice kept = before.create("a", "a");
        before.change(kept.id(), one -> one.activated(true).described(Map.of("n", "number")));
        String gone = before.create("b", "b").id();
        before.remove(gone);

        Cloud after = new Cloud(new Random(2), registry);

        assertThat(after.devices()).containsExactlyElementsOf(before.devices());
        assertThat(after.devices().getFirst().token()).isEqualTo(kept.token());
        assertThat(after.create("c", "c").id()).isNotIn(kept.id(), gone);
    }

    @Test
    void measurementsAreTakenOfActiveDevicesOnly() throws Exception {
        assertThat(status("POST", "/devices/d-1/measurements", "{}")).isEqualTo(404);
        String id = created("a").path("id").asString();
        assertThat(status("POST", "/devices/" + id + "/measurements", "{}")).isEqualTo(423);
        assertThat(status("PUT", "/devices/" + id + "/state", "{\"active\":true}"))
                .isEqualTo(200);

        assertThat(status("POST", "/devices/" + id + "/measurements", "{}")).isEqualTo(202);
        assertThat(status("POST", "/devices/" + id + "/measurements", "{}")).isEqualTo(202);
        assertThat(cloud.counts()).containsEntry("a", 1);
    }

    @Test
    void eachRightIsGrantedByItself() throws Exception {
        mood("{\"rights\":[\"devices:read\"]}");

        assertThat(status("GET", "/devices?key=a", "")).isEqualTo(200);
        assertThat(call("POST", "/devices", "{\"key\":\"a\",\"name\":\"a\"}", "token")
                        .body())
                .contains("the token lacks the right devices:write");
        assertThat(call("GET", "/token", "", "token").body()).isEqualTo("{\"rights\":[\"devices:read\"]}");
        assertThat(call("GET", "/devices", "", "wrong").statusCode()).isEqualTo(401);
    }

    @Test
    void namesAreTakenAndThePlanIsFull() throws Exception {
        mood("{\"take\":\"a\"}");
        assertThat(status("POST", "/devices", "{\"key\":\"a\",\"name\":\"a\"}")).isEqualTo(409);
        mood("{\"quota\":1}");
        assertThat(status("POST", "/devices", "{\"key\":\"b\",\"name\":\"b\"}")).isEqualTo(402);
    }

    @Test
    void aDeviceWritesWithItsOwnTokenWhereThatIsThePolicy() throws Exception {
        JsonNode made = created("a");
        String path = "/devices/" + made.path("id").asString() + "/measurements";
        cloud.change(made.path("id").asString(), one -> one.activated(true));
        mood("{\"ownTokens\":true}");

        assertThat(call("POST", path, "{}", "token").statusCode()).isEqualTo(401);
        assertThat(call("POST", path, "{}", made.path("token").asString()).statusCode())
                .isEqualTo(202);
    }

    @Test
    void theRegistryByPutIsTheSameHoweverOftenItIsSaid() throws Exception {
        String first = call("PUT", "/registry/a", "{}", "token").body();
        assertThat(call("PUT", "/registry/a", "{}", "token").body())
                .contains(JsonMapper.shared().readTree(first).path("id").asString());
        assertThat(cloud.devices()).hasSize(1);
    }

    @Test
    void devicesDriftOnDemand() throws Exception {
        created("a");
        created("b");
        created("c");
        mood("{\"delete\":\"a\",\"disable\":\"b\",\"rename\":\"c\",\"to\":\"other\"}");

        assertThat(cloud.byKey("a")).isEmpty();
        assertThat(cloud.byKey("b").orElseThrow().disabled()).isTrue();
        assertThat(cloud.byKey("c").orElseThrow().name()).isEqualTo("other");
        assertThat(call("GET", "/", "", "token").body()).contains("Device cloud", "other");
    }
}
