package org.holtra.bench.load;

import static org.holtra.bench.load.Notebook.ratio;

import java.io.IOException;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.Locale;
import java.util.Map;
import java.util.Set;

/** What Holtra takes in and sends on under load, beside bare servers that do the same with less; all in one run. */
public final class LoadBench {

    private final Database database;
    private final Notebook notebook;

    private LoadBench(Database database, Notebook notebook) {
        this.database = database;
        this.notebook = notebook;
    }

    private interface Part {
        void run() throws IOException;
    }

    /** @param arguments the database's address and password, seconds a measurement, size of the backlog, parts to run */
    public static void main(String[] arguments) throws IOException {
        Database database = new Database(arguments[0], arguments[1]);
        double seconds = Double.parseDouble(arguments[2]);
        Notebook notebook = new Notebook();
        IsolationBench isolation = new IsolationBench(database, seconds, Integer.parseInt(arguments[3]), notebook);
        Map<String, Part> all = new LinkedHashMap<>();
        all.put("start", new LoadBench(database, notebook)::start);
        all.put("intake", new IntakeBench(database, seconds, notebook)::run);
        all.put("indexes", new IntakeBench(database, seconds, notebook)::withoutIndexesOfPages);
        all.put("slow", new IntakeBench(database, seconds, notebook)::besideSlowSenders);
        HostileBench hostile = new HostileBench(database, seconds, Long.getLong("bench.seed", 1), notebook);
        all.put("hostile", hostile::run);
        all.put("hostile-each", hostile::each);
        all.put("file", new FileBench(database, seconds, notebook)::run);
        all.put("broker", new BrokerBench(database, seconds, notebook)::run);
        all.put("births", new BirthBench(database, notebook)::run);
        all.put("introductions", new IntroductionBench(database, seconds, notebook)::run);
        all.put("parts", new PartsBench(database, seconds, notebook)::run);
        all.put("refusals", new RefusalBench(database, seconds, notebook)::run);
        all.put("pages", new PagesBench(database, seconds, notebook)::run);
        all.put("through", new ThroughBench(database, seconds, notebook)::run);
        all.put("dead", isolation::deadLanes);
        all.put("backlog", isolation::waiting);
        all.put("recovery", isolation::recovery);
        all.put("memory", new MemoryBench(database, notebook::note)::run);
        Set<String> parts = Set.of(arguments[4].split(","));
        for (Map.Entry<String, Part> part : all.entrySet()) {
            // Hostile ones go on for as many seconds as are given, and only when they are asked for by name.
            if (parts.contains("all") && !part.getKey().startsWith("hostile") || parts.contains(part.getKey())) {
                part.getValue().run();
            }
        }
        notebook.write(arguments.length > 5 ? Path.of(arguments[5]) : null);
        System.exit(0);
    }

    private void start() throws IOException {
        double empty = Double.MAX_VALUE;
        double holtra = Double.MAX_VALUE;
        double memory = 0;
        double bare = 0;
        for (int i = 0; i < 3; i++) {
            Database one = database.fresh();
            try (Running running = Running.empty(one)) {
                empty = Math.min(empty, running.startSeconds());
                bare = running.resident();
            }
            try (Running running = Running.holtra(one, null)) {
                if (i > 0) {
                    memory = running.resident();
                }
            }
            try (Running running = Running.holtra(one, null)) {
                holtra = Math.min(holtra, running.startSeconds());
                memory = running.resident();
            }
            one.drop();
        }
        notebook.note(
                "start, best of 3, plain class path",
                String.format(Locale.ROOT, "%.1f s", holtra),
                String.format(
                        Locale.ROOT,
                        "%s of an empty service with the same starters (%.1f s)",
                        ratio(holtra / empty),
                        empty));
        notebook.note(
                "memory after the start (resident)",
                String.format(Locale.ROOT, "%.0f MB", memory),
                String.format(Locale.ROOT, "the empty service %.0f MB", bare));
    }
}
