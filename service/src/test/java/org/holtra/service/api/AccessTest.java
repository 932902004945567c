package org.holtra.service.api;

import static org.assertj.core.api.Assertions.assertThat;

import java.net.CookieManager;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.util.Map;
import java.util.Set;
import org.holtra.service.support.Client;
import org.holtra.service.support.Client.Answer;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

class AccessTest {

    private static final TestService SERVICE = TestService.shared();
    private static final Client CLIENT = SERVICE.client();
    private static final Set<String> OPEN = Set.of("GET /api/v1/health", "GET /api/v1/session", "POST /api/v1/session");

    private final CookieManager cookies = new CookieManager();
    private final HttpClient browser =
            HttpClient.newBuilder().cookieHandler(cookies).build();

    private HttpResponse<String> browse(String method, String path, String body, boolean withToken) throws Exception {
        HttpRequest.Builder request = HttpRequest.newBuilder(URI.create(SERVICE.address() + path))
                .method(method, HttpRequest.BodyPublishers.ofString(body))
                .header("Content-Type", "application/json");
        if (withToken) {
            cookies.getCookieStore().getCookies().stream()
                    .filter(cookie -> cookie.getName().equals("XSRF-TOKEN"))
                    .findFirst()
                    .ifPresent(cookie -> request.header("X-XSRF-TOKEN", cookie.getValue()));
        }
        return browser.send(request.build(), HttpResponse.BodyHandlers.ofString());
    }

    private HttpResponse<String> signIn(String password) throws Exception {
        browse("GET", "/api/v1/session", "", false);
        return browse("POST", "/api/v1/session", "{\"name\":\"admin\",\"password\":\"" + password + "\"}", true);
    }

    @Test
    void nothingOfTheApiAnswersWithoutASessionOrAKeyButSignInAndHealth() {
        JsonNode document = CLIENT.get("/api/v1/openapi.json");
        document.path("paths")
                .properties()
                .forEach(path -> path.getValue().properties().forEach(operation -> {
                    String method = operation.getKey().toUpperCase(java.util.Locale.ROOT);
                    if (!OPEN.contains(method + " " + path.getKey())) {
                        String address = path.getKey().replaceAll("\\{[^}]*}", "1");
                        Answer answer =
                                CLIENT.call(method, address, "{}".getBytes(), "Authorization", "Bearer holtra_wrong");
                        assertThat(answer.status()).as(method + " " + address).isEqualTo(401);
                        assertThat(answer.header("Content-Type")).startsWith("application/problem+json");
                    }
                }));
        assertThat(CLIENT.call("GET", "/api/v1/openapi.json", null).status()).isEqualTo(401);
        assertThat(CLIENT.call("GET", "/api/v1/live", null).status()).isEqualTo(401);
        assertThat(CLIENT.call("GET", "/api/v1/health", null).status()).isEqualTo(200);
        assertThat(CLIENT.call("GET", "/", null).body()).contains("<title>Holtra</title>");
        assertThat(CLIENT.call("GET", "/actuator", null).status()).isEqualTo(404);
    }

    @Test
    void aPersonSignsInAndOut() throws Exception {
        assertThat(signIn(SERVICE.password()).statusCode()).isEqualTo(200);
        assertThat(browse("GET", "/api/v1/session", "", false).body()).isEqualTo("{\"name\":\"admin\"}");
        assertThat(browse("GET", "/api/v1/status", "", false).statusCode()).isEqualTo(200);

        assertThat(browse("DELETE", "/api/v1/session", "", true).statusCode()).isEqualTo(204);
        assertThat(browse("GET", "/api/v1/status", "", false).statusCode()).isEqualTo(401);
    }

    @Test
    void aWrongPasswordIsRefusedWithoutSayingWhatIsWrong() throws Exception {
        HttpResponse<String> answer = signIn("wrong");

        assertThat(answer.statusCode()).isEqualTo(401);
        assertThat(answer.body()).contains("Name and password do not belong together");
        assertThat(browse("POST", "/api/v1/session", "{\"name\":\"nobody\",\"password\":\"x\"}", true)
                        .body())
                .contains("Name and password do not belong together");
    }

    @Test
    void aSessionWithoutItsTokenCannotChangeAnything() throws Exception {
        signIn(SERVICE.password());

        assertThat(browse("POST", "/api/v1/dead/retry", "{\"lane\":\"x\"}", false)
                        .statusCode())
                .isEqualTo(403);
        assertThat(browse("POST", "/api/v1/dead/retry", "{\"lane\":\"x\"}", true)
                        .statusCode())
                .isEqualTo(200);
    }

    @Test
    void theSessionsCookieIsOutOfReachForScriptsAndOtherSites() throws Exception {
        String cookie = signIn(SERVICE.password()).headers().allValues("Set-Cookie").stream()
                .filter(header -> header.startsWith("JSESSIONID"))
                .findFirst()
                .orElseThrow();

        assertThat(cookie).contains("HttpOnly").contains("SameSite=Strict");
    }

    @Test
    void keysAndPasswordsAreStoredAsHashesOnlyAndAKeyCanBeTakenBack() {
        String key = Client.good(CLIENT.post("/api/v1/keys/report", Map.of()))
                .json()
                .path("key")
                .asString();
        Client program = new Client(SERVICE.address(), key);
        assertThat(program.get("/api/v1/keys").toString()).contains("report").doesNotContain(key);
        assertThat(CLIENT.post("/api/v1/keys/report", Map.of()).status()).isEqualTo(409);
        String stored = SERVICE.database()
                        .texts("select encode(hash, 'escape') from api_key")
                        .toString()
                + SERVICE.database().texts("select password_hash from account");
        assertThat(stored).doesNotContain(key).doesNotContain(SERVICE.password());

        CLIENT.keyed("DELETE", "/api/v1/keys/report", null, "x/y");

        assertThat(program.keyed("GET", "/api/v1/status", null, "x/y").status()).isEqualTo(401);
    }

    @Test
    void credentialsAreNeverShownAndSealedAtRest() {
        CLIENT.save("sealed", Map.of("form", "basic", "user", "crew", "password", "plum-tree-9"));

        assertThat(CLIENT.get("/api/v1/credentials").toString())
                .contains("sealed")
                .doesNotContain("plum-tree-9");
        assertThat(SERVICE.database()
                        .texts("select encode(sealed, 'escape') from credential")
                        .toString())
                .doesNotContain("plum-tree-9");
    }
}
