package org.holtra.cli;

import java.io.Console;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.Map;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
        name = "credential",
        mixinStandardHelpOptions = true,
        description = "Secrets that inlets check senders by and outlets present. They are saved and never shown.",
        synopsisSubcommandLabel = "(list | set | make | rotate | remove)")
final class CredentialCommands {

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists names and forms.")
    int list(@Mixin Connection connection, @Mixin Output output) {
        JsonNode credentials = connection.api().get("/api/v1/credentials");
        if (!output.asJson(credentials)) {
            Table table = new Table("credential", "form", "changed", "by");
            for (JsonNode credential : credentials) {
                table.row(
                        credential.path("name").asString(),
                        credential.path("form").asString(),
                        Words.dateTime(credential.path("changed")),
                        credential.path("changedBy").asString());
            }
            table.print(output, "There are no credentials. Save one with: holtra credential set NAME --form bearer");
        }
        return 0;
    }

    @Command(
            name = "set",
            mixinStandardHelpOptions = true,
            description =
                    "Saves a credential. Its secret is read from standard input, or asked for, so that it stands in no history.")
    int set(
            @Parameters(paramLabel = "NAME", description = "Its name.") String name,
            @Option(names = "--form", required = true, description = "bearer, basic, header, query or signature.")
                    String form,
            @Option(names = "--user", description = "The user, with basic.") String user,
            @Option(
                            names = "--field",
                            description = "The name of the header or query parameter, with header and query.")
                    String field,
            @Mixin Connection connection,
            @Mixin Output output)
            throws IOException {
        Map<String, String> fields = new LinkedHashMap<>();
        fields.put("form", form);
        fields.put("user", user);
        fields.put("name", field);
        fields.put(secretField(form), secret());
        fields.values().removeIf(value -> value == null);
        JsonNode saved = connection
                .api()
                .put("/api/v1/credentials/" + Api.encode(name), Api.mapper().valueToTree(fields));
        if (!output.asJson(saved)) {
            saved.path("notices").forEach(notice -> output.line(output.styled("yellow", notice.asString())));
            output.line("Credential " + name + " is saved.");
        }
        return 0;
    }

    @Command(
            name = "make",
            mixinStandardHelpOptions = true,
            description = "Makes a secret for an inlet and shows it this once.")
    int make(
            @Parameters(paramLabel = "NAME", description = "Its name.") String name,
            @Option(
                            names = "--form",
                            defaultValue = "bearer",
                            description = "bearer or signature; ${DEFAULT-VALUE} if not given.")
                    String form,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode made = connection
                .api()
                .post(
                        Api.path("/api/v1/credentials/" + Api.encode(name), Map.of("form", form)),
                        Api.mapper().createObjectNode());
        if (!output.asJson(made)) {
            output.line(made.path("secret").asString());
        }
        return 0;
    }

    @Command(
            name = "rotate",
            mixinStandardHelpOptions = true,
            description =
                    "Makes a new secret in place of an inlet's, shows it this once, and accepts the old one a while longer.")
    int rotate(
            @Parameters(paramLabel = "NAME", description = "Its name.") String name,
            @Option(
                            names = "--overlap",
                            paramLabel = "TIME",
                            defaultValue = "1d",
                            description = "How long the old one is accepted; ${DEFAULT-VALUE} if not given.")
                    String overlap,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode rotated = connection
                .api()
                .post(
                        Api.path("/api/v1/credentials/" + Api.encode(name) + "/rotate", Map.of("overlap", overlap)),
                        Api.mapper().createObjectNode());
        if (!output.asJson(rotated)) {
            output.line(rotated.path("secret").asString());
        }
        return 0;
    }

    @Command(name = "remove", mixinStandardHelpOptions = true, description = "Removes a credential that nothing uses.")
    int remove(
            @Parameters(paramLabel = "NAME", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        connection.api().delete("/api/v1/credentials/" + Api.encode(name));
        output.line("Credential " + name + " is removed.");
        return 0;
    }

    private static String secretField(String form) {
        return switch (form) {
            case "bearer" -> "token";
            case "basic" -> "password";
            case "signature" -> "secret";
            default -> "value";
        };
    }

    private static String secret() throws IOException {
        Console console = System.console();
        if (console != null) {
            return new String(console.readPassword("Secret: "));
        }
        String text = new String(System.in.readAllBytes(), StandardCharsets.UTF_8);
        return text.endsWith("\n") ? text.substring(0, text.length() - 1) : text;
    }
}
