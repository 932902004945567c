package org.holtra.cli;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;
import picocli.CommandLine;

/** The examples that the help of each command ends with, kept in {@code examples.txt}. */
final class Examples {

    private final List<String> all;

    private Examples(List<String> all) {
        this.all = all;
    }

    static Examples load() {
        try (InputStream in = Examples.class.getResourceAsStream("examples.txt")) {
            return new Examples(new String(in.readAllBytes(), StandardCharsets.UTF_8)
                    .lines()
                    .filter(line -> !line.isBlank())
                    .toList());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Those of a command, such as {@code holtra dead list}. */
    List<String> of(String command) {
        return all.stream()
                .filter(line -> line.equals(command) || line.startsWith(command + " "))
                .toList();
    }

    List<String> all() {
        return all;
    }

    /** Adds them to the help of every command below this one that has no commands below it. */
    void addTo(CommandLine line) {
        if (!line.getSubcommands().isEmpty()) {
            line.getSubcommands().values().forEach(this::addTo);
            return;
        }
        List<String> its = of(line.getCommandSpec().qualifiedName());
        if (!its.isEmpty()) {
            List<String> footer = new ArrayList<>(List.of("", its.size() == 1 ? "Example:" : "Examples:"));
            // A percent sign would be taken for a format.
            its.stream().map(one -> "  " + one.replace("%", "%%")).forEach(footer::add);
            line.getCommandSpec().usageMessage().footer(footer.toArray(String[]::new));
            // An example that is wrapped cannot be copied.
            line.setUsageHelpWidth(Math.max(
                    line.getUsageHelpWidth(),
                    footer.stream().mapToInt(String::length).max().orElseThrow() + 1));
        }
    }

    /** Whether help is asked for, so that other commands need not wait for the examples. */
    static boolean areWanted(String... arguments) {
        return arguments.length == 0
                || Stream.of(arguments)
                        .anyMatch(word -> List.of("-h", "--help", "help").contains(word));
    }
}
