package org.holtra.service.api;

import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import org.holtra.core.setup.Setup;
import org.holtra.scripts.Confinement;
import org.holtra.scripts.Scripts;
import org.holtra.service.balance.Counts;
import org.holtra.service.balance.SpoolReports;
import org.holtra.service.cluster.Node;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.health.HealthMonitor;
import org.holtra.service.health.Trouble;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.LaneDebts;
import org.holtra.service.journal.entry.DeadGroup;
import org.holtra.service.setups.Setups;
import org.springframework.boot.info.BuildProperties;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** How things stand. */
@RestController
@RequestMapping("/api/v1")
class StateController {

    record Health(String state) {}

    /**
     * @param waiting null while the database is away, as {@code dead}
     * @param countedAt when what waits was counted: some seconds ago where that takes long; null while the database is away
     * @param nodes while the database is away, this one alone, as in {@code spools}
     * @param scripts what the process that runs script codecs is kept away from; null if none runs
     */
    record Status(
            String version,
            String node,
            Instant started,
            int setupRevision,
            int inlets,
            int lanes,
            int outlets,
            Long waiting,
            Instant countedAt,
            Long dead,
            List<String> stopped,
            List<Trouble> troubles,
            List<NodeView> nodes,
            List<SpoolReports.Report> spools,
            Confinement scripts,
            boolean databaseAway) {}

    /** @param self whether it is the one that answers */
    record NodeView(String id, String name, Instant started, Instant leaseUntil, boolean self) {}

    private final Setups setups;
    private final Dispatcher dispatcher;
    private final LaneDebts debts;
    private final Counts counts;
    private final Overviews overviews;
    private final Self self;

    /** What the service knows of itself. */
    @org.springframework.stereotype.Component
    record Self(
            BuildProperties build,
            Node node,
            InstantSource clock,
            HealthMonitor wellbeing,
            SpoolReports spools,
            Journal journal,
            Scripts scripts) {}

    private final Instant started;

    StateController(
            Setups setups, Dispatcher dispatcher, LaneDebts debts, Counts counts, Overviews overviews, Self self) {
        this.setups = setups;
        this.dispatcher = dispatcher;
        this.debts = debts;
        this.counts = counts;
        this.overviews = overviews;
        this.self = self;
        this.started = self.clock.instant();
    }

    /** Whether the service answers and its database does. Needs no sign-in. */
    @GetMapping("/health")
    Health health() {
        counts.between(started, started);
        return new Health("up");
    }

    /** How the service is: its version, nodes, what waits, and its own troubles. */
    @GetMapping("/status")
    Status status() {
        Setup setup = setups.current();
        List<String> stopped = dispatcher.states().values().stream()
                .filter(outlet -> setup.outlets().containsKey(outlet.name())
                        && !outlet.health().flows())
                .map(outlet -> outlet.name() + " is " + outlet.health().state().word() + ": "
                        + outlet.health().reason())
                .toList();
        Optional<Instant> awaySince = self.journal.awaySince();
        Figures figures = awaySince.map(this::withoutDatabase).orElseGet(this::figures);
        return new Status(
                self.build.getVersion(),
                self.node.id().toString(),
                started,
                setup.revision(),
                setup.inlets().size(),
                setup.lanes().size(),
                setup.outlets().size(),
                figures.counted == null ? null : figures.counted.waiting(),
                figures.counted == null ? null : figures.counted.at(),
                figures.dead,
                stopped,
                figures.troubles,
                figures.nodes,
                figures.spools,
                self.scripts.confinement().orElse(null),
                awaySince.isPresent());
    }

    /** What the database knows; {@code counted} and {@code dead} are null while it is away. */
    private record Figures(
            LaneDebts.Counted counted,
            Long dead,
            List<Trouble> troubles,
            List<NodeView> nodes,
            List<SpoolReports.Report> spools) {}

    private Figures figures() {
        return new Figures(
                debts.counted(),
                debts.deadGroups().stream().mapToLong(DeadGroup::count).sum(),
                self.wellbeing.open(),
                self.node.all().stream()
                        .map(node -> new NodeView(
                                node.id().toString(),
                                node.name(),
                                node.started(),
                                node.leaseUntil(),
                                node.id().equals(self.node.id())))
                        .toList(),
                self.spools.all());
    }

    private Figures withoutDatabase(Instant since) {
        NodeView alone = new NodeView(self.node.id().toString(), self.node.name(), started, null, true);
        return new Figures(
                null, null, self.wellbeing.withoutDatabase(since), List.of(alone), List.of(self.wellbeing.spool()));
    }

    /** The lanes, the most troubled first, and the balance of the last hour. */
    @GetMapping("/overview")
    Overview overview() {
        return overviews.now();
    }
}
