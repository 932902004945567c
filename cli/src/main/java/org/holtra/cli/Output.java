package org.holtra.cli;

import java.io.PrintWriter;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.SerializationFeature;

/** Tables for people, JSON for programs. */
final class Output {

    @Option(names = "--json", description = "Print JSON, for programs.")
    private boolean json;

    @Spec(Spec.Target.MIXEE)
    private CommandSpec spec;

    boolean json() {
        return json;
    }

    /** The value as JSON, if that is wanted; says whether it was. */
    boolean asJson(JsonNode value) {
        if (json) {
            out().println(Api.mapper()
                    .writer()
                    .with(SerializationFeature.INDENT_OUTPUT)
                    .writeValueAsString(value));
            out().flush();
        }
        return json;
    }

    PrintWriter out() {
        return spec.commandLine().getOut();
    }

    /** Text in a style of picocli's, such as {@code red}; plain where colours are off. */
    String styled(String style, String text) {
        return spec.commandLine().getColorScheme().ansi().string("@|" + style + " " + text + "|@");
    }

    void line(String text) {
        out().println(text);
        out().flush();
    }

    /** Beside the output proper, where a script does not read it. */
    void note(String text) {
        spec.commandLine().getErr().println(text);
        spec.commandLine().getErr().flush();
    }

    /** How far something is, in the place of what was last said so; only where a person looks on. */
    void progress(String text) {
        if (System.console() != null && !json) {
            out().print("\r" + text + "\u001b[K" + (text.isEmpty() ? "\r" : ""));
            out().flush();
        }
    }
}
