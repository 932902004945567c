package org.holtra.bench.load;

import static org.holtra.bench.load.Notebook.latency;
import static org.holtra.bench.load.Notebook.rate;
import static org.holtra.bench.load.Notebook.ratio;

import java.io.IOException;
import java.nio.file.Path;
import java.util.Locale;

/** A healthy lane beside dead ones and beside much that waits; and how long what waits takes to leave. */
record IsolationBench(Database database, double seconds, int backlog, Notebook notebook) {

    private record Healthy(double rate, Load.Result half) {

        double pace() {
            return half.messages() / half.seconds();
        }
    }

    /** @param pace of the latencies; 0 for half of its rate */
    private Healthy healthy(Sender sender, Sink sink, double pace) {
        int messages = count(sender.warmThrough(sink, 1));
        double rate = Turns.middle(() -> sender.through(sink, messages, 1), it -> it);
        double half = pace == 0 ? rate / 2 : pace;
        return new Healthy(rate, Turns.middle(() -> sender.endToEnd(sink, count(half), half), it -> it.millis(.99)));
    }

    private int count(double rate) {
        return (int) Math.max(1_000, rate * seconds);
    }

    void deadLanes() throws IOException {
        try (Sink sink = new Sink()) {
            Database one = database.fresh();
            try (Running holtra = Running.holtra(one, null)) {
                Sender sender = new Sender(holtra.address() + "/in/bench");
                holtra.adopt(Lanes.healthy(sink.address(), 1));
                Healthy before = healthy(sender, sink, 0);
                holtra.adopt(Lanes.dead(sink.address(), 1_000));
                new Load(holtra.address() + "/in/other", "bench-token", 2).full(0, 100);
                Healthy beside = healthy(sender, sink, before.pace());
                double heap = holtra.liveHeap();
                holtra.adopt(Lanes.healthy(sink.address(), 1));
                Healthy after = healthy(sender, sink, before.pace());
                compare("with 1,000 lanes to dead outlets, 100 messages waiting in each", before, beside, after, heap);
            }
            one.drop();
        }
    }

    void waiting() throws IOException {
        try (Sink sink = new Sink()) {
            Database one = database.fresh();
            try (Running holtra = Running.holtra(one, null)) {
                Sender sender = new Sender(holtra.address() + "/in/bench");
                holtra.adopt(Lanes.dead(sink.address(), 1));
                Healthy before = healthy(sender, sink, 0);
                fill(one, "dead-0", "dead-0", backlog);
                new Load(holtra.address() + "/in/other", "bench-token", 2).full(0, 10);
                Healthy beside = healthy(sender, sink, before.pace());
                double heap = holtra.liveHeap();
                one.run("delete from owed where lane = 'dead-0'");
                tidy(one);
                Healthy after = healthy(sender, sink, before.pace());
                compare(
                        String.format(Locale.ROOT, "with %,d deliveries waiting behind a dead outlet", backlog),
                        before,
                        beside,
                        after,
                        heap);
            }
            one.drop();
        }
    }

    /** A service gets faster as its code is compiled, so alone is measured before and after. */
    private void compare(String what, Healthy before, Healthy beside, Healthy after, double heap) {
        double alone = (before.rate + after.rate) / 2;
        double p99 = (before.half.millis(.99) + after.half.millis(.99)) / 2;
        notebook.note("a healthy lane, alone, before", rate(before.rate), latency(before.half) + " at half");
        notebook.note(what, rate(beside.rate), latency(beside.half) + " at the same pace");
        notebook.note("a healthy lane, alone, after", rate(after.rate), latency(after.half) + " at the same pace");
        notebook.note("  beside alone: rate", ratio(beside.rate / alone), "at least 0.9 is wanted");
        notebook.note("  beside alone: p99", ratio(beside.half.millis(.99) / p99), "at most 1.2 is wanted");
        notebook.note("  live heap", Notebook.megabytes(heap), "under 512 MB is wanted");
    }

    /** From the start of the process until all has left, and the rate from one end to the other right after. */
    void recovery() throws IOException {
        try (Sink sink = new Sink()) {
            Database one = database.fresh();
            Path folder;
            try (Running holtra = Running.holtra(one, null)) {
                holtra.adopt(Lanes.healthy(sink.address(), 1));
                folder = holtra.folder();
            }
            fill(one, "lane-0", "out-0", backlog);
            sink.reset(0);
            long began = System.nanoTime();
            try (Running holtra = Running.holtra(one, folder)) {
                while (sink.count() < backlog) {
                    Running.pause(20);
                }
                double took = (sink.last() - began) / 1e9;
                double heap = holtra.liveHeap();
                Sender sender = new Sender(holtra.address() + "/in/bench");
                double through = sender.through(sink, count(sender.warmThrough(sink, 1)), 1);
                notebook.note(
                        String.format(
                                Locale.ROOT, "recovery: %,d waiting deliveries from the start of the process", backlog),
                        String.format(Locale.ROOT, "%.0f s, %s", took, rate(backlog / took)),
                        ratio(backlog / took / through) + " of the end-to-end rate right after (" + rate(through)
                                + "); at least 0.5 is wanted");
                notebook.note("  live heap", Notebook.megabytes(heap), "");
            }
            one.drop();
        }
    }

    /** So many messages, each owed by the lane of this name, written behind the service's back. */
    private static void fill(Database one, String lane, String outlet, int messages) {
        one.run("""
                with made as (
                  select (lpad(to_hex((extract(epoch from now()) * 1000)::bigint), 12, '0') || '7' ||
                          lpad(to_hex(n / 65536), 3, '0') || '8' || lpad(to_hex(n %% 65536), 4, '0') || lpad(to_hex(n), 11, '0'))::uuid
                           as id, n
                  from generate_series(1, %1$d) n),
                kept as (
                  insert into message (id, received, inlet, state, device, event_time, type, simulated, setup_revision, lanes,
                                       arrival, body)
                  select id, date_trunc('milliseconds', now()), 'bench', 'read', 'station-' || lpad((n %% 1000)::text, 5, '0'),
                         now(), 'reading', false, 1, array['%2$s'],
                         '{"transport":{"remote":"127.0.0.1","address":"/in/bench","fields":{}},"contentType":"application/json"}'::bytea,
                         convert_to(rpad('{"id":"station-' || lpad((n %% 1000)::text, 5, '0') || '","n":' || (100000000 + n)
                            || ',"note":"', 298, 'x') || '"}', 'UTF8')
                  from made returning id, received, device)
                insert into owed (id, message, received, lane, outlet, device, attempts, due)
                select gen_random_uuid(), id, received, '%2$s', '%3$s', device, 0, received from kept
                """.formatted(messages, lane, outlet));
        tidy(one);
    }

    /** What writing or deleting much left to be done is not to be measured. */
    private static void tidy(Database one) {
        one.run("vacuum analyze message");
        one.run("vacuum analyze owed");
        one.run("checkpoint");
    }
}
