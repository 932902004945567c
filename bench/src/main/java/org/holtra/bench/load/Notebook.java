package org.holtra.bench.load;

import java.io.IOException;
import java.nio.file.Path;
import java.util.Locale;

/** What is measured, told as it comes and written down at the end. */
final class Notebook {

    private final Report report = new Report();

    void note(String what, String figure, String beside) {
        report.add(what, figure, beside);
        System.out.printf("%-72s %-44s %s%n", what, figure, beside);
    }

    /** @param document null to write nothing */
    void write(Path document) throws IOException {
        report.write(document);
    }

    static String rate(double rate) {
        return String.format(Locale.ROOT, "%,.0f a second", rate);
    }

    static String latency(Load.Result result) {
        return String.format(
                Locale.ROOT,
                "p50 %.1f ms, p99 %.1f ms, p99.9 %.1f ms",
                result.millis(.5),
                result.millis(.99),
                result.millis(.999));
    }

    static String ratio(double ratio) {
        return String.format(Locale.ROOT, "%.2f", ratio);
    }

    static String megabytes(double megabytes) {
        return String.format(Locale.ROOT, "%.0f MB", megabytes);
    }
}
