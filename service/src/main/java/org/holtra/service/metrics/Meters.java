package org.holtra.service.metrics;

import io.micrometer.core.instrument.FunctionCounter;
import io.micrometer.core.instrument.MeterRegistry;
import io.micrometer.core.instrument.MultiGauge;
import io.micrometer.core.instrument.MultiGauge.Row;
import io.micrometer.core.instrument.Tags;
import java.time.Duration;
import java.time.InstantSource;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.atomic.LongAdder;
import java.util.function.ToDoubleFunction;
import java.util.stream.Collectors;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.service.balance.Acknowledgements;
import org.holtra.service.balance.Tally;
import org.holtra.service.balance.Totals;
import org.holtra.service.connections.Connection;
import org.holtra.service.connections.Connections;
import org.holtra.service.connections.Thing;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.journal.LaneDebts;
import org.holtra.service.journal.entry.LaneDebt;
import org.springframework.stereotype.Component;

/**
 * What is told to whoever watches from outside: what came in and what became of it, what waits and since when, how outlets and
 * connections stand. Labels are the names of inlets, lanes and outlets, and nothing that senders choose.
 */
@Component
public class Meters {

    /** Names come and go with the setup; more than this many are not told apart. */
    private static final int MOST = 2_000;

    private static final String OTHERS = "others";

    private final MeterRegistry registry;
    private final Tally tally;
    private final Acknowledgements acknowledgements;
    private final LaneDebts debts;
    private final Dispatcher dispatcher;
    private final Connections connections;
    private final InstantSource clock;
    private final Set<String> counted = new HashSet<>();
    private final MultiGauge waiting;
    private final MultiGauge oldest;
    private final MultiGauge flowing;
    private final MultiGauge connected;
    private volatile Map<Tags, LaneDebt> owed = Map.of();

    /** How things stand. */
    @Component
    record State(LaneDebts debts, Dispatcher dispatcher, Connections connections) {}

    Meters(MeterRegistry registry, Tally tally, Acknowledgements acknowledgements, State state, InstantSource clock) {
        this.acknowledgements = acknowledgements;
        this.registry = registry;
        this.tally = tally;
        this.debts = state.debts;
        this.dispatcher = state.dispatcher;
        this.connections = state.connections;
        this.clock = clock;
        this.waiting = gauge("holtra.lane.waiting", "Deliveries that a lane owes.");
        this.oldest = gauge("holtra.lane.oldest.seconds", "Age of the oldest delivery that a lane owes.");
        this.flowing = gauge("holtra.outlet.flowing", "1 where deliveries go, 0 where they wait; by state.");
        this.connected = gauge("holtra.connection.up", "1 where a connection stands, 0 where it does not; by state.");
    }

    private MultiGauge gauge(String name, String about) {
        return MultiGauge.builder(name).description(about).register(registry);
    }

    /** Called every few seconds. */
    public synchronized void refresh() {
        tally.totals().forEach(this::count);
        acknowledgements.totals().forEach(this::count);
        owed = debts.debts().stream().collect(Collectors.toMap(Meters::tags, debt -> debt));
        // Rows that stand are not registered anew, since a scrape at that moment would miss them: they look up
        // their value when asked. What outlets and connections tell follows from their labels.
        waiting.register(rows(LaneDebt::waiting), false);
        oldest.register(rows(this::age), false);
        flowing.register(
                dispatcher.states().entrySet().stream().map(Meters::outlet).toList(), false);
        connected.register(
                connections.all().entrySet().stream().map(Meters::connection).toList(), false);
    }

    private List<Row<?>> rows(ToDoubleFunction<LaneDebt> value) {
        return owed.keySet().stream()
                .<Row<?>>map(tags -> Row.of(tags, () -> value(tags, value)))
                .toList();
    }

    private double value(Tags tags, ToDoubleFunction<LaneDebt> value) {
        LaneDebt debt = owed.get(tags);
        return debt == null ? 0 : value.applyAsDouble(debt);
    }

    private static Tags tags(LaneDebt debt) {
        return Tags.of("lane", debt.lane(), "outlet", debt.outlet());
    }

    /** In seconds. */
    private double age(LaneDebt debt) {
        return debt.oldest() == null
                ? 0
                : Duration.between(debt.oldest(), clock.instant()).toMillis() / 1e3;
    }

    private static Row<?> outlet(Map.Entry<String, Dispatcher.OutletState> outlet) {
        OutletHealth health = outlet.getValue().health();
        return Row.of(Tags.of("outlet", outlet.getKey(), "state", health.state().word()), health.flows() ? 1 : 0);
    }

    private static Row<?> connection(Map.Entry<Thing, Connection.Status> one) {
        Thing thing = one.getKey();
        return Row.of(
                Tags.of(
                        "of", thing.sort().word(),
                        "name", thing.name(),
                        "state", one.getValue().state().word()),
                one.getValue().state() == Connection.State.CONNECTED ? 1 : 0);
    }

    private void count(Totals.Total total) {
        String key = total.what() + " " + total.name();
        if (counted.contains(key)) {
            return;
        }
        boolean known = counted.size() < MOST;
        if (known) {
            counted.add(key);
        } else if (!counted.add(total.what() + " " + OTHERS)) {
            return;
        }
        FunctionCounter.builder(name(total.what()), total.count(), LongAdder::doubleValue)
                .description(about(total.what()))
                .tag(label(total.what()), known ? total.name() : OTHERS)
                .register(registry);
    }

    private static String name(Tally.What what) {
        return switch (what) {
            case ACKNOWLEDGED -> "holtra.messages.acknowledged";
            case IGNORED -> "holtra.messages.ignored";
            case TAKEN -> "holtra.deliveries.taken";
            case DELIVERED -> "holtra.deliveries.delivered";
            case DEAD -> "holtra.deliveries.dead";
            case FAILED -> "holtra.attempts.failed";
            case SENT -> "holtra.outlet.messages.sent";
            case BYTES -> "holtra.outlet.bytes.sent";
        };
    }

    private static String about(Tally.What what) {
        return switch (what) {
            case ACKNOWLEDGED -> "Messages that senders were told are taken.";
            case IGNORED -> "Of those, messages that were counted only, as their inlet asks for.";
            case TAKEN -> "Deliveries that lanes took on.";
            case DELIVERED -> "Deliveries that arrived.";
            case DEAD -> "Deliveries that became dead letters.";
            case FAILED -> "Attempts that failed, by lane.";
            case SENT -> "Messages that an outlet delivered.";
            case BYTES -> "Bytes of their bodies.";
        };
    }

    private static String label(Tally.What what) {
        return switch (what) {
            case ACKNOWLEDGED, IGNORED -> "inlet";
            case SENT, BYTES -> "outlet";
            case TAKEN, DELIVERED, DEAD, FAILED -> "lane";
        };
    }
}
