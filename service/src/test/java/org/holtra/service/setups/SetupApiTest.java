package org.holtra.service.setups;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.holtra.service.support.Client;
import org.holtra.service.support.Client.Answer;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

class SetupApiTest {

    private static final String SETUP = """
            # as a person wrote it
            inlets:
              s: {kind: http, at: {path: s, credential: s}}
            outlets:
              one: {kind: http, to: {url: "http://127.0.0.1:1"}}
              two: {kind: http, to: {url: "http://127.0.0.1:1/two"}}
            lanes:
              s: {inlets: [s], outlet: one}
            """;

    private static final Client CLIENT = TestService.shared().client();

    @BeforeEach
    void setUp() {
        CLIENT.save("s", Map.of("form", "bearer", "token", "token-token"));
        CLIENT.save("s-query", Map.of("form", "query", "name", "key", "value", "secret-value"));
        CLIENT.save("s-path", Map.of("form", "path", "value", "a-part-of-a-path"));
    }

    @AfterEach
    void tearDown() {
        CLIENT.adopt("");
    }

    private static Answer post(String path, String yaml) {
        return CLIENT.keyed("POST", path, yaml.getBytes(), "application/yaml");
    }

    private static int revision() {
        return CLIENT.get("/api/v1/status").path("setupRevision").asInt();
    }

    @Test
    void isExportedAsItWasAdopted() {
        assertThat(post("/api/v1/setup/adopt", SETUP).status()).isEqualTo(200);

        Answer exported = CLIENT.keyed("GET", "/api/v1/setup", null, "x/y");
        assertThat(exported.body()).isEqualTo(SETUP);
        assertThat(exported.header("Holtra-Setup-Revision")).isEqualTo(Integer.toString(revision()));
        assertThat(exported.header("Content-Type")).startsWith("application/yaml");
    }

    @Test
    void theKindsTellWhatCanBeSaidOfThem() {
        JsonNode kinds = CLIENT.get("/api/v1/kinds");

        assertThat(kinds.valueStream().map(kind -> kind.path("name").asString()))
                .containsExactly("file", "http", "mail", "mqtt", "sample", "sparkplug", "sql", "timeseries");
        JsonNode file = kinds.get(0);
        assertThat(file.at("/inlet/required/0").asString()).isEqualTo("folder");
        assertThat(file.path("shape")).isEmpty();
        JsonNode http = kinds.get(1);
        assertThat(http.at("/outlet/properties/url/title").asString()).isEqualTo("Address");
        assertThat(http.path("shape")
                        .valueStream()
                        .map(field -> field.path("name").asString()))
                .containsExactly("method", "path", "query", "headers");
        assertThat(http.path("batchForms").toString()).isEqualTo("[\"list\",\"lines\"]");
    }

    @Test
    void checkTellsEveryErrorAtItsLineAndChangesNothing() {
        int before = revision();
        String wrong = SETUP.replace("credential: s}", "credential: nobody}")
                .replace("outlet: one", "outlet: oen")
                .replace("127.0.0.1:1/two\"", "127.0.0.1:1/two?x=1\", credential: s-query, concurency: 2");

        JsonNode checked = post("/api/v1/setup/check", wrong).json();

        assertThat(checked.path("good").asBoolean()).isFalse();
        assertThat(checked.path("problems"))
                .extracting(problem -> problem.path("line").asInt() + ": "
                        + problem.path("what").asString())
                .containsExactlyInAnyOrder(
                        "3: there is no credential `nobody`; save it first, with `holtra credential set nobody`",
                        "6: `http://127.0.0.1:1/two?x=1` is not written right: an address begins with http:// or https://, and carries no ? or #",
                        "6: nothing here is called `concurency`; did you mean `concurrency`?",
                        "8: there is no outlet `oen`; did you mean `one`?");
        assertThat(revision()).isEqualTo(before);
    }

    @Test
    void aSetupWithErrorsIsNotAdopted() {
        int before = revision();

        Answer answer = post("/api/v1/setup/adopt", SETUP.replace("kind: http, at", "kind: pigeon, at"));

        assertThat(answer.status()).isEqualTo(422);
        assertThat(answer.json().at("/problems/0/line").asInt()).isEqualTo(3);
        assertThat(revision()).isEqualTo(before);
    }

    @Test
    void aCredentialOfTheWrongFormIsAnError() {
        JsonNode checked = post(
                        "/api/v1/setup/check",
                        SETUP.replace("127.0.0.1:1/two\"", "127.0.0.1:1/two\", credential: s-path"))
                .json();

        assertThat(checked.at("/problems/0/what").asString()).contains("has the form path, which does not serve here");
    }

    @Test
    void twoInletsCannotShareAPath() {
        String twice = SETUP.replace("outlets:", "  t: {kind: http, at: {path: s, credential: s}}\noutlets:");

        assertThat(post("/api/v1/setup/check", twice)
                        .json()
                        .at("/problems/0/what")
                        .asString())
                .isEqualTo("inlet `s` takes these requests already");
    }

    @Test
    void whoChangedFromAnOlderRevisionIsToldBeforeOverwriting() {
        post("/api/v1/setup/adopt", SETUP);
        int before = revision();
        post("/api/v1/setup/adopt", SETUP + "# another\n");

        Answer answer = post("/api/v1/setup/adopt?basedOn=" + before, SETUP + "# mine\n");

        assertThat(answer.status()).isEqualTo(409);
        assertThat(answer.json().path("detail").asString()).contains("was adopted meanwhile");
    }

    @Test
    void everyRevisionIsKeptAndCanBePutInForceAgain() {
        post("/api/v1/setup/adopt?note=first", SETUP);
        int first = revision();
        post("/api/v1/setup/adopt", SETUP.replace("outlet: one", "outlet: two"));

        assertThat(CLIENT.get("/api/v1/setup/revisions/" + first).path("note").asString())
                .isEqualTo("first");
        assertThat(post("/api/v1/setup/revisions/" + first + "/adopt", "").status())
                .isEqualTo(200);

        assertThat(revision()).isEqualTo(first + 2);
        assertThat(CLIENT.get("/api/v1/lanes").at("/0/outlet").asString()).isEqualTo("one");
        JsonNode newest = CLIENT.get("/api/v1/setup/revisions").at("/revisions/0");
        assertThat(newest.path("adoptedBy").asString()).isEqualTo("key first-start");
        assertThat(newest.path("note").asString()).isEqualTo("as in revision " + first);
    }

    @Test
    void whatWaitsOnALaneMustBeDecidedBeforeItIsRemovedOrSentElsewhere() {
        post("/api/v1/setup/adopt", SETUP);
        String id = CLIENT.send("s", "{}");
        String elsewhere = SETUP.replace("outlet: one", "outlet: two");

        Answer refused = post("/api/v1/setup/adopt", elsewhere);
        assertThat(refused.status()).isEqualTo(409);
        assertThat(refused.json().path("detail").asString())
                .contains("Lane `s` owes 1 deliveries and would go to `two`");

        assertThat(post("/api/v1/setup/adopt?waiting=follow", elsewhere).status())
                .isEqualTo(200);
        CLIENT.traceWhen(id, trace -> trace.at("/lanes/0/outlet").asString().equals("two"));

        assertThat(post("/api/v1/setup/adopt?waiting=drop", "").status()).isEqualTo(200);
        JsonNode trace = CLIENT.traceWhen(id, now -> Client.state(now).equals("dropped"));
        assertThat(trace.at("/lanes/0/reason").asString()).isEqualTo("the lane was removed by key first-start");
    }

    @Test
    void aCredentialInUseCannotBeRemoved() {
        post("/api/v1/setup/adopt", SETUP);

        Answer answer = CLIENT.keyed("DELETE", "/api/v1/credentials/s", null, "x/y");

        assertThat(answer.status()).isEqualTo(409);
        assertThat(answer.json().path("detail").asString()).contains("inlet `s`");
    }
}
