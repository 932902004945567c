package org.holtra.service.api;

import io.swagger.v3.oas.annotations.Parameter;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.delivery.Batch;
import org.holtra.core.delivery.Pace;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.balance.Counts;
import org.holtra.service.balance.OutletTraffic;
import org.holtra.service.connections.Connection;
import org.holtra.service.connections.Connections;
import org.holtra.service.connections.Diary;
import org.holtra.service.connections.Thing;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.dispatch.HeldDevices;
import org.holtra.service.dispatch.PaceStore;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.journal.LaneDebts;
import org.holtra.service.setups.Setups;
import org.holtra.service.workbench.TagCounts;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

@RestController
@RequestMapping("/api/v1/outlets")
class OutletController {

    /**
     * @param to where it goes, as the setup says
     * @param shares the connection that it shares with others, by its name; null if it shares none
     * @param connection how the connection stands that it holds open on the node that answers; null if it holds none
     * @param state {@code flowing}, {@code paused}, {@code broken}, {@code blocked} or {@code closed}
     * @param held the devices it holds, those held the longest first
     * @param pace null if it has none
     * @param used what was granted of its pace; null if it has none, or nothing was
     * @param price null if nobody entered one
     * @param monthly what a month costs at the rate of the last thirty days, or of as many as there are; null without a
     *     price
     */
    record OutletView(
            String name,
            String kind,
            String address,
            Map<String, Object> to,
            String shares,
            Connection.Status connection,
            String preset,
            String state,
            String reason,
            Instant since,
            Instant nextProbe,
            int inFlight,
            long waiting,
            int heldDevices,
            List<HeldDevices.Held> held,
            BatchView batch,
            Pace pace,
            Pace.Used used,
            List<String> lanes,
            OutletTraffic traffic,
            Outlet.Price price,
            Double monthly) {}

    /**
     * How it sends several messages as one.
     *
     * @param waitMillis how long the first waits for others
     * @param as how they stand together, in a word of the kind; null if there is one way only
     * @param answers the expression that tells what became of each; null if it takes them whole or not at all
     */
    record BatchView(int messages, int bytes, long waitMillis, String as, String answers) {

        /** @param usual how they stand together where the setup does not say; null if there is one way only */
        static BatchView of(Batch batch, String usual) {
            return new BatchView(
                    batch.messages(),
                    batch.bytes(),
                    batch.patience().toMillis(),
                    batch.form() == null ? usual : batch.form(),
                    batch.answers() == null ? null : batch.answers().source());
        }
    }

    record Trying(String state) {}

    private static final Duration MONTH = Duration.ofDays(30);

    /** A rate is told from no less than this, or the first minute would say what a month is. */
    private static final Duration LEAST_KNOWN = Duration.ofHours(1);

    private final Setups setups;
    private final Dispatcher dispatcher;
    private final LaneDebts debts;
    private final Counts counts;
    private final PaceStore paces;
    private final InstantSource clock;
    private final OutletTold told;

    /** What is told of an outlet's connection and of what it wrote. */
    @Component
    record OutletTold(Connections connections, Diary diary, TagCounts tags, Introductions introductions) {}

    OutletController(
            Setups setups,
            Dispatcher dispatcher,
            LaneDebts debts,
            Counts counts,
            PaceStore paces,
            InstantSource clock,
            OutletTold told) {
        this.told = told;
        this.paces = paces;
        this.setups = setups;
        this.dispatcher = dispatcher;
        this.debts = debts;
        this.counts = counts;
        this.clock = clock;
    }

    /** The outlets, with their health and what waits for them. */
    @GetMapping
    List<OutletView> list() {
        Setup setup = setups.current();
        Map<String, Dispatcher.OutletState> states = dispatcher.states();
        Map<String, OutletTraffic> traffic = counts.byOutlet();
        Map<String, Long> waiting = new HashMap<>();
        debts.debts().forEach(debt -> waiting.merge(debt.outlet(), debt.waiting(), Long::sum));
        return setup.outlets().values().stream()
                .map(outlet -> view(
                        outlet,
                        states.get(outlet.name()),
                        waiting.getOrDefault(outlet.name(), 0L),
                        traffic.getOrDefault(outlet.name(), new OutletTraffic(outlet.name(), 0, 0, 0, 0, 0, 0, null))))
                .toList();
    }

    private OutletView view(Outlet outlet, Dispatcher.OutletState state, long waiting, OutletTraffic traffic) {
        return new OutletView(
                outlet.name(),
                outlet.kind(),
                dispatcher.address(outlet),
                outlet.to(),
                outlet.connection() == null ? null : outlet.connection().name(),
                told.connections.status(Thing.outlet(outlet.name())).orElse(null),
                outlet.preset(),
                state.health().state().word(),
                state.health().reason(),
                state.health().since(),
                state.health().nextProbe(),
                state.inFlight(),
                waiting,
                state.held().size(),
                state.held(),
                outlet.manner().batch() == null
                        ? null
                        : BatchView.of(
                                outlet.manner().batch(),
                                dispatcher.batchForms(outlet).stream()
                                        .findFirst()
                                        .orElse(null)),
                outlet.manner().pace().isAny() ? null : outlet.manner().pace(),
                outlet.manner().pace().isAny()
                        ? null
                        : paces.used(outlet.name()).orElse(null),
                setups.current().lanesTo(outlet.name()).stream().map(Lane::name).toList(),
                traffic,
                outlet.price(),
                outlet.price() == null ? null : monthly(outlet, traffic));
    }

    private double monthly(Outlet outlet, OutletTraffic traffic) {
        Outlet.Price price = outlet.price();
        long devices = price.device() == 0 ? 0 : told.introductions.countKnown(outlet.name());
        if (traffic.first() == null) {
            return price.of(0, 0, devices);
        }
        Duration known = Duration.between(traffic.first(), clock.instant());
        double factor = Math.max(1, (double) MONTH.toMinutes() / Math.max(LEAST_KNOWN.toMinutes(), known.toMinutes()));
        return price.of(
                Math.round(traffic.monthMessages() * factor), Math.round(traffic.monthBytes() * factor), devices);
    }

    /** What happened to an outlet, the newest first. */
    @GetMapping("/{name}/diary")
    List<Diary.Line> diary(@PathVariable String name) {
        if (!setups.current().outlets().containsKey(name)) {
            throw Problem.notFound("outlet", name);
        }
        return told.diary.of(Thing.outlet(name));
    }

    /**
     * What became of each value that an outlet's destination knows by a name, such as a series: of the last messages of its lanes'
     * inlets.
     */
    @GetMapping("/{name}/tags")
    TagCounts.Report tags(@PathVariable String name) {
        Outlet outlet = setups.current().outlets().get(name);
        if (outlet == null) {
            throw Problem.notFound("outlet", name);
        }
        return told.tags.of(outlet);
    }

    /** Tries an outlet that does not flow again at once. */
    @PostMapping("/{name}/try")
    Trying tryNow(@PathVariable String name) {
        Outlet outlet = setups.current().outlets().get(name);
        if (outlet != null && outlet.closed()) {
            throw new Problem(
                    HttpStatus.CONFLICT, "The outlet is closed", "Open it, and what waits leaves by itself.", Map.of());
        }
        if (!dispatcher.tryNow(name)) {
            throw Problem.notFound("outlet", name);
        }
        return new Trying("trying");
    }

    /** @param devices that are tried again */
    record TryingDevices(List<String> devices) {}

    /** Tries devices that an outlet holds again at once: one, or all of them. */
    @PostMapping("/{name}/try-devices")
    TryingDevices tryDevices(
            @PathVariable String name,
            @Parameter(description = "its key; all that are held if not given") @RequestParam(required = false)
                    String device) {
        if (!setups.current().outlets().containsKey(name)) {
            throw Problem.notFound("outlet", name);
        }
        return new TryingDevices(dispatcher.tryDevices(name, device));
    }
}
