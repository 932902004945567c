package org.holtra.cli;

import java.io.IOException;
import java.time.Instant;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/**
 * Codecs by themselves. These commands need no service. What they need instead is loaded only when one of them runs, so
 * that all others start as fast as they do: nothing of it may stand in a signature here.
 */
@Command(
        name = "codec",
        mixinStandardHelpOptions = true,
        description = "Codecs on their own; no service is needed.",
        synopsisSubcommandLabel = "(try | encode)")
final class CodecCommands {

    @Spec
    private CommandSpec spec;

    @Command(
            name = "try",
            mixinStandardHelpOptions = true,
            description = "Decodes bytes with a codec and prints JSON. Exit code 1 on errors.")
    int attempt(
            @Parameters(paramLabel = "FILE", description = "A script (.js) or a layout (.yaml).") String file,
            @Option(names = "--bytes", required = true, paramLabel = "HEX", description = "The payload.") String hex,
            @Option(names = "--port", paramLabel = "N", description = "The port it arrived on.") Integer port,
            @Option(names = "--time", paramLabel = "INSTANT", description = "When it arrived; by default now.")
                    Instant time)
            throws IOException {
        return new CodecRun(spec.commandLine()).decode(file, hex, port, time == null ? Instant.now() : time);
    }

    @Command(
            name = "encode",
            mixinStandardHelpOptions = true,
            description = "Encodes fields with a codec and prints JSON. Exit code 1 on errors.")
    int encode(
            @Parameters(paramLabel = "FILE", description = "A script (.js) or a layout (.yaml).") String file,
            @Option(names = "--data", required = true, paramLabel = "JSON", description = "The fields, as an object.")
                    String json,
            @Option(names = "--port", paramLabel = "N", description = "The port it will be sent on.") Integer port)
            throws IOException {
        return new CodecRun(spec.commandLine()).encode(file, json, port);
    }

    static boolean isScript(String file) {
        return file.endsWith(".js") || file.endsWith(".mjs") || file.endsWith(".cjs");
    }
}
