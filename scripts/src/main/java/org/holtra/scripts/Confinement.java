package org.holtra.scripts;

import java.io.File;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.concurrent.TimeUnit;

/**
 * What the process that runs scripts is kept away from, beside what the engine keeps scripts from: always the environment of
 * this process and its working folder; the network and this process's user where the system allows that.
 *
 * @param network whether it has none
 * @param user whether it runs as a user of its own, who owns nothing
 */
public record Confinement(boolean network, boolean user) {

    private static final String NOBODY = "65534";
    private static final List<String> OWN_USER =
            List.of("setpriv", "--reuid", NOBODY, "--regid", NOBODY, "--clear-groups", "--no-new-privs", "--");
    private static final List<String> SAME_USER = List.of("setpriv", "--no-new-privs", "--");
    private static final List<String> NO_NETWORK = List.of("unshare", "--net", "--");
    private static final List<String> NO_NETWORK_BY_USER_NAMESPACE = List.of("unshare", "--user", "--net", "--");

    private static final long TRIAL_SECONDS = 60;

    /** How a command is begun, and what that keeps it from. */
    record Way(List<String> prefix, Confinement confinement) {}

    private static final List<Way> WAYS = List.of(
            new Way(joined(NO_NETWORK, OWN_USER), new Confinement(true, true)),
            new Way(OWN_USER, new Confinement(false, true)),
            new Way(joined(NO_NETWORK_BY_USER_NAMESPACE, SAME_USER), new Confinement(true, false)),
            new Way(List.of(), new Confinement(false, false)));

    private static List<String> joined(List<String> first, List<String> second) {
        List<String> both = new ArrayList<>(first);
        both.addAll(second);
        return List.copyOf(both);
    }

    /** The strictest way by which a process can be started here that reads these files, and works in this folder. */
    static Way strictest(List<String> files, Path folder) {
        return WAYS.stream()
                .filter(way -> works(way, files, folder))
                .findFirst()
                .orElseThrow(() -> new IllegalStateException("no process can be started"));
    }

    private static boolean works(Way way, List<String> files, Path folder) {
        if (way.prefix.isEmpty()) {
            return true;
        }
        List<String> command = new ArrayList<>(way.prefix);
        command.addAll(List.of("sh", "-c", "for f; do test -r \"$f\" || exit 1; done", "sh"));
        command.addAll(files);
        try {
            Process trial = bare(command, folder).start();
            boolean ended = trial.waitFor(TRIAL_SECONDS, TimeUnit.SECONDS);
            trial.destroyForcibly();
            return ended && trial.exitValue() == 0;
        } catch (IOException e) {
            return false; // there is no such program here
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return false;
        }
    }

    /** A process that inherits nothing but the path on which programs are found. */
    static ProcessBuilder bare(List<String> command, Path folder) {
        ProcessBuilder process =
                new ProcessBuilder(command).directory(folder.toFile()).redirectError(ProcessBuilder.Redirect.DISCARD);
        String path = System.getenv("PATH");
        process.environment().clear();
        process.environment().put("PATH", path == null ? "/usr/bin:/bin" : path);
        return process;
    }

    /** A folder that holds nothing, in which the process works; gone when this one ends. */
    static Path scratch() throws IOException {
        Path folder = Files.createTempDirectory("holtra-scripts-");
        Files.setPosixFilePermissions(folder, PosixFilePermissions.fromString("rwx--x--x"));
        folder.toFile().deleteOnExit();
        return folder;
    }

    /** The entries of a class path. */
    static List<String> files(String classpath) {
        return Arrays.stream(classpath.split(File.pathSeparator))
                .filter(entry -> !entry.isEmpty())
                .toList();
    }
}
