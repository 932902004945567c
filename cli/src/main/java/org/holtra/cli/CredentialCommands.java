package org.holtra.cli;

import java.io.Console;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
        name = "credential",
        mixinStandardHelpOptions = true,
        description = "Credentials of inlets and outlets. Secrets are stored and never shown again.",
        synopsisSubcommandLabel = "(list | forms | set | make | rotate | link | remove)")
final class CredentialCommands {

    private static final String FORMS = "/api/v1/credentials/forms";

    @Command(name = "list", mixinStandardHelpOptions = true, description = "Lists names and forms.")
    int list(@Mixin Connection connection, @Mixin Output output) {
        JsonNode credentials = connection.api().get("/api/v1/credentials");
        if (!output.asJson(credentials)) {
            Table table = new Table("credential", "form", "changed", "by", "ends", "token");
            for (JsonNode credential : credentials) {
                table.row(
                        credential.path("name").asString(),
                        credential.path("form").asString(),
                        Words.dateTime(credential.path("changed")),
                        credential.path("changedBy").asString(),
                        credential.path("expires").isNull() ? "" : Words.dateTime(credential.path("expires")),
                        token(credential.path("token")));
            }
            table.print(output, "There are no credentials. Save one with: holtra credential set NAME --form bearer");
        }
        return 0;
    }

    private static String token(JsonNode token) {
        if (!token.isObject()) {
            return "";
        }
        if (!token.path("failure").isNull()) {
            return token.path("failure").asString() + ": "
                    + token.path("reason").asString();
        }
        return token.path("expires").isNull() ? "good" : "good until " + Words.dateTime(token.path("expires"));
    }

    @Command(
            name = "link",
            mixinStandardHelpOptions = true,
            description = "Makes a link by which an owner grants access, for a credential of the form grant.")
    int link(
            @Parameters(paramLabel = "NAME", description = "Its name.") String name,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode link = connection
                .api()
                .post(
                        "/api/v1/credentials/" + Api.encode(name) + "/link",
                        Api.mapper().createObjectNode());
        if (!output.asJson(link)) {
            output.line(link.path("address").asString());
            output.line("Send this to the owner. It serves once, until " + Words.dateTime(link.path("until")) + ".");
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
            @Option(names = "--form", required = true, description = "See `holtra credential forms`.") String form,
            @Option(
                            names = "--field",
                            paramLabel = "NAME=VALUE",
                            description =
                                    "A field of the form that is no secret, such as user=ada; with @ before it, the name of a file"
                                            + " that holds it. More than once.")
                    Map<String, String> plain,
            @Mixin Connection connection,
            @Mixin Output output)
            throws IOException {
        Map<String, String> fields = new LinkedHashMap<>();
        for (Map.Entry<String, String> field : (plain == null ? Map.<String, String>of() : plain).entrySet()) {
            String value = field.getValue();
            fields.put(field.getKey(), value.startsWith("@") ? Files.readString(Path.of(value.substring(1))) : value);
        }
        fields.put("form", form);
        for (String field : secretFields(connection.api().get(FORMS), form)) {
            fields.put(field, secret(field));
        }
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
            description = "Creates a secret for an inlet and shows it once.")
    int make(
            @Parameters(paramLabel = "NAME", description = "Its name.") String name,
            @Option(names = "--form", defaultValue = "bearer", description = "The form; ${DEFAULT-VALUE} by default.")
                    String form,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode made = connection
                .api()
                .post(
                        Api.path("/api/v1/credentials/" + Api.encode(name), Map.of("form", form)),
                        Api.mapper().createObjectNode());
        if (!output.asJson(made)) {
            print(made, output);
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
                            description = "How long the old secret is still accepted; ${DEFAULT-VALUE} by default.")
                    String overlap,
            @Mixin Connection connection,
            @Mixin Output output) {
        JsonNode rotated = connection
                .api()
                .post(
                        Api.path("/api/v1/credentials/" + Api.encode(name) + "/rotate", Map.of("overlap", overlap)),
                        Api.mapper().createObjectNode());
        if (!output.asJson(rotated)) {
            print(rotated, output);
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

    @Command(
            name = "forms",
            mixinStandardHelpOptions = true,
            description = "Lists the forms of credential, and the fields of each.")
    int forms(@Mixin Connection connection, @Mixin Output output) {
        JsonNode forms = connection.api().get(FORMS);
        if (!output.asJson(forms)) {
            Table table = new Table("form", "fields", "secret", "can be made here", "");
            for (JsonNode form : forms) {
                String name = form.path("form").asString();
                List<String> secret = secretFields(forms, name);
                List<String> plain =
                        new ArrayList<>(form.at("/schema/properties").propertyNames());
                plain.removeAll(secret);
                table.row(
                        name,
                        String.join(", ", plain),
                        String.join(", ", secret),
                        form.path("canBeMade").asBoolean() ? "yes" : "no",
                        form.path("about").asString());
            }
            table.print(output, "This service knows no forms of credential.");
        }
        return 0;
    }

    private static List<String> secretFields(JsonNode forms, String wanted) {
        List<String> fields = new ArrayList<>();
        for (JsonNode form : forms) {
            if (form.path("form").asString().equals(wanted)) {
                form.at("/schema/properties").properties().forEach(field -> {
                    if (field.getValue().path("writeOnly").asBoolean()) {
                        fields.add(field.getKey());
                    }
                });
            }
        }
        return fields;
    }

    private static String secret(String field) throws IOException {
        Console console = System.console();
        if (console != null) {
            return new String(console.readPassword("%s: ", field));
        }
        String text = new String(System.in.readAllBytes(), StandardCharsets.UTF_8);
        return text.endsWith("\n") ? text.substring(0, text.length() - 1) : text;
    }

    /** The secret alone, for scripts; beside it what belongs to it. */
    private static void print(JsonNode made, Output output) {
        output.line(made.path("secret").asString());
        made.path("shown")
                .properties()
                .forEach(field ->
                        output.note(field.getKey() + ": " + field.getValue().asString()));
    }
}
