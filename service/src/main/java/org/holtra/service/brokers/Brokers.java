package org.holtra.service.brokers;

import java.time.InstantSource;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import org.holtra.service.connections.Connections;
import org.holtra.service.reach.CheckedAddresses;
import org.holtra.service.reach.Reach;
import org.holtra.service.settings.HoltraSettings;
import org.springframework.stereotype.Component;

/** What all that speak to brokers share. */
@Component
public class Brokers implements AutoCloseable {

    private final BrokerSession.Means means;
    private final Connections connections;
    private final SharedStandings standings;
    private final TopicSurveys surveys;
    private final String node;
    private final InstantSource clock;

    Brokers(HoltraSettings settings, Connections connections, InstantSource clock) {
        BrokerClients clients = new BrokerClients(new CheckedAddresses(Reach.of(settings.outletsReach())));
        ScheduledExecutorService later = Executors.newSingleThreadScheduledExecutor(
                Thread.ofPlatform().daemon().name("brokers-later").factory());
        this.means = new BrokerSession.Means(clients, later);
        this.connections = connections;
        this.standings = new SharedStandings(connections);
        this.surveys = new TopicSurveys(clients, clock);
        this.node = settings.node();
        this.clock = clock;
    }

    public BrokerSession.Means session() {
        return means;
    }

    public Connections connections() {
        return connections;
    }

    public SharedStandings standings() {
        return standings;
    }

    public TopicSurveys surveys() {
        return surveys;
    }

    /** The name of this node. */
    public String node() {
        return node;
    }

    public InstantSource clock() {
        return clock;
    }

    @Override
    public void close() {
        means.later().shutdownNow();
    }
}
