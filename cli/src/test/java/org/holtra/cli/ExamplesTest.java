package org.holtra.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatCode;

import java.util.ArrayList;
import java.util.List;
import java.util.regex.MatchResult;
import java.util.regex.Pattern;
import org.junit.jupiter.api.DynamicTest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestFactory;
import picocli.CommandLine;

/** The examples in the help of commands. */
class ExamplesTest {

    /** A word of a shell: in single quotes, or without spaces. */
    private static final Pattern WORD = Pattern.compile("'([^']*)'|(\\S+)");

    private static List<CommandLine> leaves(CommandLine line) {
        if (line.getSubcommands().isEmpty()) {
            return List.of(line);
        }
        List<CommandLine> all = new ArrayList<>();
        line.getSubcommands().values().forEach(one -> all.addAll(leaves(one)));
        return all;
    }

    @Test
    void everyCommandHasOne() {
        List<String> without = leaves(Holtra.commandLine()).stream()
                .filter(line -> line.getCommandSpec().usageMessage().footer().length == 0)
                .map(line -> line.getCommandSpec().qualifiedName())
                .toList();
        assertThat(without).containsExactly("holtra help");
    }

    @TestFactory
    List<DynamicTest> eachIsTakenByItsCommand() {
        return Examples.load().all().stream()
                .map(example -> DynamicTest.dynamicTest(
                        example, () -> assertThatCode(() -> parse(example)).doesNotThrowAnyException()))
                .toList();
    }

    private static void parse(String example) {
        String command = example.replaceFirst(" > .*", "").replaceFirst("^holtra ", "");
        String[] words = WORD.matcher(command).results().map(ExamplesTest::text).toArray(String[]::new);
        Holtra.commandLine(words).parseArgs(words);
    }

    private static String text(MatchResult word) {
        return word.group(1) == null ? word.group(2) : word.group(1);
    }

    @Test
    void helpEndsWithThemAndOtherCallsDoNotReadThem() {
        CommandLine lane = Holtra.commandLine("lane", "--help").getSubcommands().get("lane");
        assertThat(lane.getSubcommands().get("try").getUsageMessage())
                .contains("Examples:", "  holtra lane try frost-calls");
        assertThat(Examples.areWanted("lane", "list")).isFalse();
    }
}
