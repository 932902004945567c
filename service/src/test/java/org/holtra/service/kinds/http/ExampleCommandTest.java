package org.holtra.service.kinds.http;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import java.util.Set;
import org.holtra.service.credentials.Credential;
import org.junit.jupiter.api.Test;

class ExampleCommandTest {

    private static String command(String form, Map<String, String> fields, String secret) {
        return ExampleCommand.of("in", "masts", List.of("post"), new Credential(form, fields, Set.of(secret)));
    }

    @Test
    void theLineShowsWhereTheSecretBelongsAndNeverTheSecret() {
        List<String> lines = List.of(
                command("bearer", Map.of("token", "s3cret-1"), "token"),
                command("basic", Map.of("user", "maren", "password", "s3cret-1"), "password"),
                command("header", Map.of("name", "X-Door", "value", "s3cret-1"), "value"),
                command("signature", Map.of("secret", "s3cret-1"), "secret"));

        assertThat(lines).noneMatch(line -> line.contains("s3cret-1"));
        assertThat(lines.get(0)).contains("-H 'Authorization: Bearer SECRET'").startsWith("curl ORIGIN/in/");
        assertThat(lines.get(1)).contains("-u 'maren:SECRET'");
        assertThat(lines.get(2)).contains("-H 'X-Door: SECRET'");
        assertThat(lines.get(3)).contains("holtra send in ");
    }

    @Test
    void aSecretInTheAddressStandsWhereTheInletLooksForIt() {
        Credential query = new Credential("query", Map.of("name", "key", "value", "s3cret-1"), Set.of("value"));
        Credential path = new Credential("path", Map.of("value", "s3cret-1"), Set.of("value"));

        assertThat(ExampleCommand.of("in", "meters", List.of("get"), query))
                .isEqualTo("curl 'ORIGIN/in/meters?key=SECRET&hello=1'");
        assertThat(ExampleCommand.of("in", "meters", List.of("post", "get"), query))
                .startsWith("curl 'ORIGIN/in/meters?key=SECRET' ");
        assertThat(ExampleCommand.of("in", "meters/{secret}", List.of("post"), path))
                .startsWith("curl ORIGIN/in/meters/SECRET ");
    }
}
