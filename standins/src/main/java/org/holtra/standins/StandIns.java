package org.holtra.standins;

import org.holtra.standins.demo.Run;
import org.holtra.standins.demo.Seed;
import picocli.CommandLine;
import picocli.CommandLine.Command;

/** The simulated outside world of the demo. */
@Command(
        name = "standins",
        description = "The simulated outside world of the demo.",
        subcommands = {Run.class, Seed.class})
public final class StandIns {

    private StandIns() {}

    public static void main(String[] args) {
        System.exit(new CommandLine(new StandIns()).execute(args));
    }
}
