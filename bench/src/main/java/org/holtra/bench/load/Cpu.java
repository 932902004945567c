package org.holtra.bench.load;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Locale;
import java.util.stream.Stream;

/** What processes cost. Linux counts it in hundredths of a second (proc(5)). */
final class Cpu {

    private static final double TICKS_A_SECOND = 100;
    /** Of what stands behind the name in /proc/PID/stat: own time as user and system, and that of children that ended. */
    private static final int OWN = 11;

    private Cpu() {}

    /** Seconds of a process and all that it started, those that have ended too. */
    static double seconds(long pid) {
        return Stream.concat(
                        Stream.of(pid),
                        ProcessHandle.of(pid).stream()
                                .flatMap(ProcessHandle::descendants)
                                .map(ProcessHandle::pid))
                .mapToDouble(Cpu::own)
                .sum();
    }

    /** What a message cost, in words. */
    static String cost(double service, double database, int messages) {
        return String.format(
                Locale.ROOT,
                "service %.0f µs, PostgreSQL %.0f µs",
                service / messages * 1e6,
                database / messages * 1e6);
    }

    private static double own(long pid) {
        try {
            String stat = Files.readString(Path.of("/proc/" + pid + "/stat"));
            String[] fields = stat.substring(stat.lastIndexOf(')') + 2).split(" ");
            double ticks = 0;
            for (int i = OWN; i < OWN + 4; i++) {
                ticks += Long.parseLong(fields[i]);
            }
            return ticks / TICKS_A_SECOND;
        } catch (IOException e) {
            if (Files.exists(Path.of("/proc/" + pid))) {
                throw new UncheckedIOException(e);
            }
            return 0; // it ended meanwhile, and counts with its parent
        }
    }
}
