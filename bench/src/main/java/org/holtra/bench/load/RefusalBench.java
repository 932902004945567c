package org.holtra.bench.load;

import static org.holtra.bench.load.Notebook.latency;
import static org.holtra.bench.load.Notebook.rate;
import static org.holtra.bench.load.Notebook.ratio;

import java.io.IOException;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;

/** What a healthy sender gets while another is refused, again and again. */
record RefusalBench(Database database, double seconds, Notebook notebook) {

    private static final double REFUSALS_A_SECOND = 10_000;
    private static final int CONNECTIONS = 16;
    private static final int ROUNDS = 5;
    private static final int WARMING = 20_000;

    /** Of what the inlet takes when it is alone: the refused ones need the rest of the machine. */
    private static final double SHARE = 0.3;

    void run() throws IOException {
        Database its = database.fresh();
        try (Running holtra = Running.holtra(its, null)) {
            holtra.adopt(IntakeBench.CLOSED_LANE);
            Load healthy = new Load(holtra.address() + "/in/bench", "bench-token", CONNECTIONS);
            Load wrong = new Load(holtra.address() + "/in/bench", "another-token", CONNECTIONS);
            double full = 0;
            for (int round = 0; round < 4; round++) {
                full = healthy.full(0, WARMING).rate();
                wrong.full(0, WARMING);
            }
            double pace = full * SHARE;
            int messages = (int) (pace * seconds);
            int refusals = (int) (REFUSALS_A_SECOND * seconds);
            List<Load.Result> alone = new ArrayList<>();
            List<Load.Result> beside = new ArrayList<>();
            List<Load.Result> refused = new ArrayList<>();
            for (int round = 0; round < ROUNDS; round++) {
                alone.add(healthy.paced(0, messages, pace, new long[messages]));
                Thread other = Thread.ofPlatform()
                        .start(() -> refused.add(wrong.paced(0, refusals, REFUSALS_A_SECOND, new long[refusals])));
                beside.add(healthy.paced(0, messages, pace, new long[messages]));
                Load.join(other);
            }
            Load.Result one = middle(alone);
            Load.Result two = middle(beside);
            Load.Result three = middle(refused);
            notebook.note("intake at " + rate(pace) + ", alone", rate(one.rate()), latency(one));
            notebook.note("  beside refusals", rate(two.rate()), latency(two));
            notebook.note("  beside alone: rate", ratio(two.rate() / one.rate()), "at least 0.9 is wanted");
            notebook.note("  calls refused meanwhile", rate(three.rate()), three.refused() + " of " + three.messages());
            notebook.note("  refused of the healthy", Integer.toString(two.refused()), "");
        }
        its.drop();
    }

    private static Load.Result middle(List<Load.Result> results) {
        return results.stream()
                .sorted(Comparator.comparingDouble(Load.Result::rate))
                .toList()
                .get(results.size() / 2);
    }
}
