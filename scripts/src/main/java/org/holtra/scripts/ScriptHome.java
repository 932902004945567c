package org.holtra.scripts;

import java.io.File;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.stream.Collectors;

/**
 * How the process that runs scripts is started. An installation that has a folder with what it needs, and in it a cache made
 * by the JDK, names it by the property {@code holtra.scripts}: the process starts several times faster then.
 */
public final class ScriptHome {

    private static final String HOME = "holtra.scripts";

    /** The JDK's ahead-of-time cache (25 and newer), and a class-data archive. */
    private static final String AHEAD = "host.aot";

    private static final String SHARED = "host.jsa";

    private ScriptHome() {}

    /** A process to be started, and what it is kept away from. */
    record Start(ProcessBuilder process, Confinement confinement) {}

    private static Confinement.Way way;
    private static Path scratch;

    static synchronized Start start(ScriptLimits limits) throws IOException {
        if (scratch == null) {
            scratch = Confinement.scratch();
        }
        List<String> command = command(limits);
        if (way == null) {
            way = Confinement.strictest(Confinement.files(command.get(command.indexOf("-cp") + 1)), scratch);
        }
        List<String> confined = new ArrayList<>(way.prefix());
        confined.addAll(command);
        return new Start(Confinement.bare(confined, scratch), way.confinement());
    }

    private static List<String> command(ScriptLimits limits) throws IOException {
        String home = System.getProperty(HOME, "");
        List<String> command = java(limits);
        if (home.isEmpty()) {
            command.addAll(List.of("-Xshare:auto", "-cp", ownClasspath()));
        } else {
            Path folder = Path.of(home);
            if (Files.exists(folder.resolve(AHEAD))) {
                command.add("-XX:AOTCache=" + folder.resolve(AHEAD));
            } else if (Files.exists(folder.resolve(SHARED))) {
                command.add("-XX:SharedArchiveFile=" + folder.resolve(SHARED));
            }
            command.addAll(List.of("-cp", classpath(folder)));
        }
        command.addAll(
                List.of(ScriptHost.class.getName(), Long.toString(limits.time().toMillis())));
        return command;
    }

    private static List<String> java(ScriptLimits limits) {
        List<String> java = new ArrayList<>(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-Xmx" + limits.memoryMegabytes() + "m",
                "-XX:+UseSerialGC",
                "-XX:+ExitOnOutOfMemoryError",
                "-XX:-UsePerfData",
                "-Xlog:disable",
                "--enable-native-access=ALL-UNNAMED",
                "--sun-misc-unsafe-memory-access=allow",
                "-Dpolyglot.engine.WarnInterpreterOnly=false"));
        if (limits.use() == ScriptLimits.Use.TRIES) {
            java.add("-XX:TieredStopAtLevel=1");
        }
        return java;
    }

    /**
     * Makes the cache of a folder: the process is started once, so that the JDK sees what it needs.
     *
     * @param arguments the folder
     */
    public static void main(String[] arguments) throws IOException, InterruptedException {
        Path folder = Path.of(arguments[0]);
        boolean ahead = Runtime.version().feature() >= 25;
        List<String> command = java(ScriptLimits.USUAL);
        command.add(
                ahead
                        ? "-XX:AOTCacheOutput=" + folder.resolve(AHEAD)
                        : "-XX:ArchiveClassesAtExit=" + folder.resolve(SHARED));
        command.addAll(List.of("-cp", classpath(folder), ScriptHost.class.getName(), "500"));
        Process process = new ProcessBuilder(command)
                .redirectError(ProcessBuilder.Redirect.INHERIT)
                .redirectInput(ProcessBuilder.Redirect.from(new File("/dev/null")))
                .redirectOutput(ProcessBuilder.Redirect.DISCARD)
                .start();
        if (process.waitFor() != 0) {
            throw new IOException("the process for scripts ended with " + process.exitValue());
        }
    }

    private static String classpath(Path folder) throws IOException {
        try (var files = Files.list(folder)) {
            return files.map(Path::toString)
                    .filter(file -> file.endsWith(".jar"))
                    .sorted()
                    .collect(Collectors.joining(File.pathSeparator));
        }
    }

    /** This process's own, with absolute paths, for the other one works elsewhere. */
    private static String ownClasspath() {
        return Arrays.stream(System.getProperty("java.class.path").split(File.pathSeparator))
                .map(entry -> Path.of(entry).toAbsolutePath().toString())
                .collect(Collectors.joining(File.pathSeparator));
    }
}
