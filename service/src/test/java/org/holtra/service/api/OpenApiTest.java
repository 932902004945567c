package org.holtra.service.api;

import static org.assertj.core.api.Assertions.assertThat;

import com.networknt.schema.SchemaRegistry;
import com.networknt.schema.SpecificationVersion;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import org.holtra.service.support.Client;
import org.holtra.service.support.TestService;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.springframework.web.servlet.mvc.method.annotation.RequestMappingHandlerMapping;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

class OpenApiTest {

    private static final TestService SERVICE = TestService.shared();
    private static final Client CLIENT = SERVICE.client();
    private static final JsonNode DOCUMENT = CLIENT.get("/api/v1/openapi.json");

    @BeforeAll
    static void sendSomething() {
        CLIENT.save("a", Map.of("form", "bearer", "token", "token-token"));
        Client.good(CLIENT.adopt("""
                inlets:
                  a: {kind: http, at: {path: a, credential: a}, device: data.id}
                outlets:
                  a: {kind: http, to: {url: "http://127.0.0.1:1"}}
                lanes:
                  a: {inlets: [a], outlet: a}
                  never: {inlets: [a], outlet: a, pick: data.x > 1}
                """));
        CLIENT.send("a", "{\"id\":\"openapi\"}");
        CLIENT.send("a", "nonsense");
    }

    @Test
    void isOfVersion31() {
        assertThat(DOCUMENT.path("openapi").asString()).startsWith("3.1");
    }

    @Test
    void namesEveryCallThereIsAndNoOther() {
        Set<String> real = new TreeSet<>();
        SERVICE.bean("requestMappingHandlerMapping", RequestMappingHandlerMapping.class)
                .getHandlerMethods()
                .forEach((mapping, method) -> {
                    for (String path : mapping.getPatternValues()) {
                        if (path.startsWith("/api/")
                                && method.getBeanType().getName().startsWith("org.holtra")) {
                            mapping.getMethodsCondition().getMethods().forEach(verb -> real.add(verb + " " + path));
                        }
                    }
                });
        Set<String> told = DOCUMENT.path("paths").properties().stream()
                .flatMap(path -> path.getValue().properties().stream()
                        .map(operation -> operation.getKey().toUpperCase(Locale.ROOT) + " " + path.getKey()))
                .collect(Collectors.toCollection(TreeSet::new));

        assertThat(real).hasSizeGreaterThan(30);
        assertThat(told).isEqualTo(real);
    }

    @Test
    void theLinterFindsNoErrorInIt(@TempDir Path folder) throws Exception {
        Path file = Files.writeString(folder.resolve("openapi.json"), DOCUMENT.toString());
        Process linter = new ProcessBuilder("node", "lint-api.mjs", file.toString())
                .directory(Path.of("..", "console").toFile())
                .redirectErrorStream(true)
                .start();
        String found = new String(linter.getInputStream().readAllBytes(), StandardCharsets.UTF_8);

        assertThat(linter.waitFor()).as(found).isZero();
        assertThat(found).doesNotContain("error ");
    }

    @Test
    void recordsOfTheSameNameAreToldApart() {
        assertThat(DOCUMENT.at("/components/schemas/CredentialMade/properties").propertyNames())
                .containsExactlyInAnyOrder("name", "form", "secret", "shown");
        assertThat(DOCUMENT.at("/components/schemas/KeyMade/properties").propertyNames())
                .containsExactlyInAnyOrder("name", "key");
    }

    @Test
    void everyOperationHasADescriptionAnIdOfItsOwnAndItsProblems() {
        List<JsonNode> operations = DOCUMENT.path("paths")
                .valueStream()
                .flatMap(JsonNode::valueStream)
                .toList();

        assertThat(operations).allSatisfy(operation -> {
            assertThat(operation.path("summary").asString(""))
                    .as(operation.toString())
                    .isNotBlank();
            assertThat(operation.path("operationId").asString()).doesNotContain("_");
            assertThat(operation.at("/responses/401/$ref").asString()).endsWith("NotSignedIn");
        });
        assertThat(operations)
                .extracting(operation -> operation.path("operationId").asString())
                .doesNotHaveDuplicates();
    }

    @Test
    void everyOperationHasAnExampleThatFitsItsSchema() {
        List<String> wrong = new ArrayList<>();
        DOCUMENT.path("paths")
                .properties()
                .forEach(path -> path.getValue().properties().forEach(operation -> {
                    String name = operation.getValue().path("operationId").asString();
                    wrong.addAll(misfits(name + ", call", operation.getValue().at("/requestBody/content")));
                    operation.getValue().path("responses").properties().stream()
                            .filter(response -> response.getKey().startsWith("2"))
                            .forEach(response -> wrong.addAll(misfits(
                                    name + ", answer", response.getValue().path("content"))));
                }));

        assertThat(wrong).isEmpty();
    }

    private static List<String> misfits(String name, JsonNode content) {
        List<String> wrong = new ArrayList<>();
        content.properties().forEach(type -> {
            JsonNode example = type.getValue().path("example");
            if (example.isMissingNode()) {
                wrong.add(name + ": there is no example");
            } else if (type.getKey().contains("json")) {
                violations(type.getValue().path("schema"), example).forEach(one -> wrong.add(name + ": " + one));
            }
        });
        return wrong;
    }

    @Test
    void everyListThatComesInPagesIsAskedForAlike() {
        List<String> paged = new ArrayList<>();
        DOCUMENT.path("paths").properties().forEach(path -> {
            JsonNode get = path.getValue().path("get");
            List<String> parameters = get.path("parameters")
                    .valueStream()
                    .map(parameter -> parameter.path("name").asString())
                    .toList();
            assertThat(parameters).as(path.getKey()).doesNotContain("before", "offset", "page", "cursor");
            if (parameters.contains("limit")) {
                assertThat(parameters).as(path.getKey()).contains("after");
                String answer =
                        get.at("/responses/200/content").findValue("$ref").asString();
                assertThat(DOCUMENT.at(answer.substring(1)).path("properties").has("next"))
                        .as(path.getKey())
                        .isTrue();
                paged.add(path.getKey());
            }
        });

        assertThat(paged)
                .containsExactlyInAnyOrder(
                        "/api/v1/alarms",
                        "/api/v1/dead",
                        "/api/v1/devices",
                        "/api/v1/incidents",
                        "/api/v1/jobs",
                        "/api/v1/messages",
                        "/api/v1/outlets/{name}/introductions",
                        "/api/v1/outlets/{name}/made",
                        "/api/v1/setup/revisions");
    }

    @ParameterizedTest
    @CsvSource({
        "/api/v1/status, /api/v1/status",
        "/api/v1/overview, /api/v1/overview",
        "/api/v1/lanes, /api/v1/lanes",
        "/api/v1/inlets, /api/v1/inlets",
        "/api/v1/outlets, /api/v1/outlets",
        "/api/v1/devices, /api/v1/devices",
        "/api/v1/messages, /api/v1/messages?limit=5",
        "/api/v1/balance, /api/v1/balance",
        "/api/v1/dead, /api/v1/dead",
        "/api/v1/credentials, /api/v1/credentials",
        "/api/v1/keys, /api/v1/keys",
        "/api/v1/setup/revisions, /api/v1/setup/revisions"
    })
    void describesWhatIsReallyAnswered(String path, String address) {
        JsonNode content = DOCUMENT.at("/paths/" + path.replace("/", "~1") + "/get/responses/200/content");
        JsonNode schema = content.properties().iterator().next().getValue().path("schema");
        assertThat(schema.isMissingNode()).isFalse();

        assertThat(violations(schema, CLIENT.get(address))).isEmpty();
        assertThat(violations(schema, Client.JSON.readTree("\"something else\"")))
                .isNotEmpty();
    }

    /** Fields that may be null are not told of as such by Java's types; they are taken out before the comparison. */
    private static Set<String> violations(JsonNode schema, JsonNode answer) {
        ObjectNode whole = schema.deepCopy().asObject();
        whole.set("components", DOCUMENT.path("components"));
        return SchemaRegistry.withDefaultDialect(SpecificationVersion.DRAFT_2020_12)
                .getSchema(whole)
                .validate(withoutNulls(answer))
                .stream()
                .map(Object::toString)
                .collect(Collectors.toSet());
    }

    private static JsonNode withoutNulls(JsonNode node) {
        if (node.isObject()) {
            ObjectNode copy = Client.JSON.createObjectNode();
            node.properties().stream()
                    .filter(field -> !field.getValue().isNull())
                    .forEach(field -> copy.set(field.getKey(), withoutNulls(field.getValue())));
            return copy;
        }
        if (node.isArray()) {
            var copy = Client.JSON.createArrayNode();
            node.forEach(item -> copy.add(withoutNulls(item)));
            return copy;
        }
        return node;
    }
}
