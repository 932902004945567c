package org.holtra.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.Map;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
        name = "setup",
        mixinStandardHelpOptions = true,
        description = "The setup: all inlets, lanes and outlets, as one file.",
        synopsisSubcommandLabel = "(check | adopt | export | revisions | undo)")
final class SetupCommands {

    private static final String YAML = "application/yaml";

    @Command(
            name = "check",
            mixinStandardHelpOptions = true,
            description = "Checks a setup and changes nothing. Exit code 1 if it has errors.")
    int check(
            @Parameters(paramLabel = "FILE", description = "The setup, or - for standard input.") String file,
            @Mixin Connection connection,
            @Mixin Output output)
            throws IOException {
        JsonNode checked = connection.api().post("/api/v1/setup/check", YAML, read(file));
        boolean good = checked.path("good").asBoolean();
        if (!output.asJson(checked)) {
            checked.path("problems").forEach(problem -> finding(file, problem, "", output));
            checked.path("warnings").forEach(warning -> finding(file, warning, " warning", output));
            output.line(
                    good
                            ? output.styled("green", "The setup is good.")
                            : output.styled("red", checked.path("problems").size() + " to mend."));
        }
        return good ? 0 : Holtra.NOT_WELL;
    }

    private static void finding(String file, JsonNode finding, String mark, Output output) {
        String where = finding.path("where").asString("");
        output.line(output.styled(
                        "bold",
                        file + ":" + finding.path("line").asInt() + ":"
                                + finding.path("column").asInt())
                + output.styled("yellow", mark)
                + (where.isEmpty() ? "" : " " + where)
                + ": " + finding.path("what").asString().replace("\n", "\n    "));
    }

    @Command(name = "adopt", mixinStandardHelpOptions = true, description = "Checks a setup and applies it as a whole.")
    int adopt(
            @Parameters(paramLabel = "FILE", description = "The setup, or - for standard input.") String file,
            @Option(names = "--note", description = "What the change is for.") String note,
            @Option(
                            names = "--based-on",
                            paramLabel = "REVISION",
                            description = "Refuse if another revision was adopted since this one.")
                    Integer basedOn,
            @Option(
                            names = "--waiting",
                            paramLabel = "WHAT",
                            description =
                                    "What becomes of deliveries of lanes that are removed or sent elsewhere: refuse (if not given), drop or follow. leave: as refuse, but devices that a removed outlet made at its destination stay there.")
                    String waiting,
            @Mixin Connection connection,
            @Mixin Output output)
            throws IOException {
        Map<String, Object> parameters = new LinkedHashMap<>();
        parameters.put("note", note);
        parameters.put("basedOn", basedOn);
        parameters.put("waiting", waiting);
        return adopted(connection.api().post(Api.path("/api/v1/setup/adopt", parameters), YAML, read(file)), output);
    }

    @Command(name = "export", mixinStandardHelpOptions = true, description = "Prints the active setup.")
    int export(@Mixin Connection connection, @Mixin Output output) {
        output.out().print(connection.api().text("/api/v1/setup"));
        output.out().flush();
        return 0;
    }

    @Command(
            name = "revisions",
            mixinStandardHelpOptions = true,
            description = "Lists the revisions: when, by whom, and why.")
    int revisions(@Mixin Limit limit, @Mixin Connection connection, @Mixin Output output) {
        JsonNode revisions = limit.page(connection, "/api/v1/setup/revisions", "revisions", Map.of());
        if (!output.asJson(revisions)) {
            Table table = new Table(">revision", "adopted", "by", "note");
            for (JsonNode revision : revisions.path("revisions")) {
                table.row(
                        revision.path("revision").asInt(),
                        Words.dateTime(revision.path("adopted")),
                        revision.path("adoptedBy").asString(),
                        revision.path("note").asString(""));
            }
            table.print(output, "No setup has been adopted yet. Adopt one with: holtra setup adopt FILE");
            Limit.more(output, revisions);
        }
        return 0;
    }

    @Command(
            name = "undo",
            mixinStandardHelpOptions = true,
            description = "Applies an earlier revision again, as a new one.")
    int undo(
            @Parameters(paramLabel = "REVISION", description = "The revision to go back to.") int revision,
            @Option(names = "--waiting", paramLabel = "WHAT", description = "As with adopt.") String waiting,
            @Mixin Connection connection,
            @Mixin Output output) {
        Map<String, Object> parameters = new LinkedHashMap<>();
        parameters.put("waiting", waiting);
        String path = "/api/v1/setup/revisions/" + revision + "/adopt";
        return adopted(connection.api().post(Api.path(path, parameters), YAML, new byte[0]), output);
    }

    private static int adopted(JsonNode adopted, Output output) {
        if (!output.asJson(adopted)) {
            output.line("Revision " + adopted.path("revision").asInt() + " is active.");
        }
        return 0;
    }

    static byte[] read(String file) throws IOException {
        try {
            return file.equals("-") ? System.in.readAllBytes() : Files.readAllBytes(Path.of(file));
        } catch (NoSuchFileException e) {
            throw new ApiFailure(2, "There is no file " + file + ".");
        }
    }
}
