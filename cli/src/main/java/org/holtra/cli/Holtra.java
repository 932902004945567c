package org.holtra.cli;

import java.util.List;
import java.util.Optional;
import picocli.AutoComplete;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.ExitCode;
import picocli.CommandLine.HelpCommand;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Spec;

/** The client of a Holtra service. */
@Command(
        name = "holtra",
        mixinStandardHelpOptions = true,
        version = "Holtra 0.1.0",
        description = "The command line of Holtra.",
        synopsisSubcommandLabel = "COMMAND",
        footer = {
            "",
            "These are the launcher's own: demo, stop, start, verify, bench (see ./holtra without arguments).",
            "",
            "Exit codes: 0 all is well; 1 it is not, as the output says; 2 the call was wrong;",
            "3 the service cannot be reached; 4 it does not let you; 5 it refused."
        })
public final class Holtra implements Runnable {

    static final int NOT_WELL = 1;
    static final int UNREACHABLE = 3;
    static final int NOT_ALLOWED = 4;
    static final int REFUSED = 5;

    private static final List<Class<?>> THINGS = List.of(
            StatusCommand.class,
            SendCommand.class,
            FollowCommand.class,
            TraceCommand.class,
            BalanceCommand.class,
            DeadCommands.class,
            ReplayCommand.class,
            AlarmCommands.class,
            LookoutCommands.class,
            IncidentCommands.class,
            JobCommands.class,
            SetupCommands.class,
            SampleCommands.class,
            InletCommands.class,
            ConnectionCommands.class,
            LaneCommands.class,
            OutletCommands.class,
            IntroductionCommands.class,
            DeviceCommands.class,
            ModelCommands.class,
            CodecCommands.class,
            MessageCommands.class,
            CredentialCommands.class,
            KeyCommands.class);

    @Spec
    private CommandSpec spec;

    @Override
    public void run() {
        spec.commandLine().usage(spec.commandLine().getOut());
    }

    public static void main(String[] args) {
        System.exit(commandLine(args).execute(args));
    }

    /**
     * The command line as far as these arguments need it: to look at every command there is takes longer than most of them
     * do.
     */
    static CommandLine commandLine(String... arguments) {
        CommandLine line = new CommandLine(new Holtra());
        Optional<Class<?>> wanted = THINGS.stream()
                .filter(thing -> arguments.length > 0 && nameOf(thing).equals(arguments[0]))
                .findFirst();
        wanted.map(List::<Class<?>>of).orElse(THINGS).forEach(line::addSubcommand);
        if (wanted.isEmpty()) {
            line.addSubcommand(AutoComplete.GenerateCompletion.class).addSubcommand(HelpCommand.class);
        }
        if (Examples.areWanted(arguments)) {
            Examples.load().addTo(line);
        }
        line.setExecutionExceptionHandler((e, command, parsed) -> {
            command.getErr().println(command.getColorScheme().errorText(message(e)));
            return e instanceof ApiFailure failure ? failure.exitCode() : ExitCode.SOFTWARE;
        });
        return line;
    }

    private static String nameOf(Class<?> thing) {
        return thing.getAnnotation(Command.class).name();
    }

    private static String message(Exception e) {
        return e.getMessage() == null ? e.toString() : e.getMessage();
    }
}
