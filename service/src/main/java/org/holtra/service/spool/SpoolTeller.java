package org.holtra.service.spool;

import java.time.InstantSource;
import org.holtra.service.balance.BeforeCounting;
import org.holtra.service.balance.SpoolReports;
import org.holtra.service.cluster.Node;
import org.springframework.stereotype.Component;

/** Tells all nodes how this one's spool stands, and how much disk and memory it has left. */
@Component
public class SpoolTeller implements BeforeCounting {

    private final Spool spool;
    private final SpoolReports reports;
    private final Node node;
    private final HeapUse heap;
    private final InstantSource clock;

    SpoolTeller(Spool spool, SpoolReports reports, Node node, HeapUse heap, InstantSource clock) {
        this.spool = spool;
        this.reports = reports;
        this.node = node;
        this.heap = heap;
        this.clock = clock;
    }

    public SpoolReports.Report report() {
        return report(spool.state());
    }

    @Override
    public void tell() {
        Spool.State state = spool.state();
        reports.write(report(state), state.minutes());
    }

    private SpoolReports.Report report(Spool.State state) {
        return new SpoolReports.Report(
                node.name(),
                state.messages(),
                state.bytes(),
                state.on() ? state.limit() : 0,
                state.oldest(),
                state.trouble(),
                spool.diskFree(),
                heap.percent(),
                clock.instant(),
                true);
    }
}
