package org.holtra.service.api;

import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.parameters.RequestBody;
import jakarta.servlet.http.HttpServletRequest;
import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Transport;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.balance.Counts;
import org.holtra.service.balance.Tally;
import org.holtra.service.balance.TallyRow;
import org.holtra.service.connections.Connection;
import org.holtra.service.connections.Connections;
import org.holtra.service.connections.Diary;
import org.holtra.service.connections.Thing;
import org.holtra.service.intake.Intake;
import org.holtra.service.intake.Sources;
import org.holtra.service.settings.HoltraSettings;
import org.holtra.service.setups.Setups;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

@RestController
@RequestMapping("/api/v1/inlets")
class InletController {

    private static final int LARGEST_BODY = 1 << 20;

    /**
     * @param state {@code open} or {@code closed}
     * @param address where senders reach it, or what it reads; null for the inlet of Holtra's own messages
     * @param own whether it is the inlet of Holtra's own messages
     * @param addressIsPath whether the address is a path at the service's own
     * @param publicAddress by which senders reach the service; null if it is not known
     * @param exampleCommand sends a first message; {@code ORIGIN} stands for the service's address. Null if there is none
     * @param shares the connection that it shares with others, by its name; null if it shares none
     * @param connection how it stands on the node that answers; null for the inlet of Holtra's own messages
     * @param lastHour how many messages it acknowledged in the last hour
     * @param ignored how many of those it only counted
     */
    record InletView(
            String name,
            String kind,
            String state,
            String address,
            String credential,
            String shares,
            long lastHour,
            long ignored,
            List<String> lanes,
            boolean own,
            boolean addressIsPath,
            String publicAddress,
            String exampleCommand,
            Connection.Status connection) {}

    /** @param ignored whether it was counted only, as the inlet asks for */
    record Taken(String id, boolean ignored) {}

    private final Setups setups;
    private final Sources sources;
    private final Intake intake;
    private final Counts counts;
    private final InstantSource clock;
    private final Connections connections;
    private final Diary diary;
    private final HoltraSettings settings;

    /** What is told of an inlet's connection, and where senders reach it. */
    @Component
    record Told(Connections connections, Diary diary, HoltraSettings settings) {}

    InletController(Setups setups, Sources sources, Intake intake, Counts counts, InstantSource clock, Told told) {
        this.connections = told.connections;
        this.diary = told.diary;
        this.settings = told.settings;
        this.setups = setups;
        this.sources = sources;
        this.intake = intake;
        this.counts = counts;
        this.clock = clock;
    }

    /** The inlets, with their addresses, their lanes and what came within the hour. */
    @GetMapping
    List<InletView> list() {
        Instant now = clock.instant();
        List<TallyRow> rows = counts.between(now.minus(Duration.ofHours(1)), now);
        Map<String, Long> byName = sums(rows, Tally.What.ACKNOWLEDGED);
        Map<String, Long> ignored = sums(rows, Tally.What.IGNORED);
        Stream<Inlet> own = setups.current().inlet(Setup.OWN_INLET).stream();
        return Stream.concat(setups.current().inlets().values().stream(), own)
                .map(inlet -> new InletView(
                        inlet.name(),
                        inlet.kind(),
                        inlet.closed() ? "closed" : "open",
                        sources.address(inlet),
                        inlet.credential(),
                        inlet.connection() == null ? null : inlet.connection().name(),
                        byName.getOrDefault(inlet.name(), 0L),
                        ignored.getOrDefault(inlet.name(), 0L),
                        setups.current().lanesOf(inlet.name()).stream()
                                .map(lane -> lane.name())
                                .toList(),
                        inlet.name().equals(Setup.OWN_INLET),
                        sources.addressIsPath(inlet),
                        settings.publicAddress(),
                        sources.exampleCommand(inlet).orElse(null),
                        connections.status(Thing.inlet(inlet.name())).orElse(null)))
                .toList();
    }

    private static Map<String, Long> sums(List<TallyRow> rows, Tally.What what) {
        return rows.stream()
                .filter(row -> row.what().equals(what.name()))
                .collect(Collectors.groupingBy(TallyRow::name, Collectors.summingLong(TallyRow::count)));
    }

    /** What happened to an inlet, the newest first. */
    @GetMapping("/{name}/diary")
    List<Diary.Line> diary(@PathVariable String name) {
        if (setups.current().inlet(name).isEmpty()) {
            throw Problem.notFound("inlet", name);
        }
        return diary.of(Thing.inlet(name));
    }

    /** Sends a message in by an inlet, as one of its senders would, but on the strength of this API's own access. */
    @PostMapping(value = "/{name}/messages", consumes = "*/*")
    @ResponseStatus(HttpStatus.ACCEPTED)
    @RequestBody(content = @Content(mediaType = "*/*"))
    CompletableFuture<Taken> send(@PathVariable String name, HttpServletRequest request) throws IOException {
        Inlet inlet = setups.current().inlets().get(name);
        if (inlet == null) {
            throw Problem.notFound("inlet", name);
        }
        if (inlet.closed()) {
            throw new Problem(
                    HttpStatus.SERVICE_UNAVAILABLE,
                    "The inlet is closed",
                    "A person closed it; it takes nothing until it is opened.",
                    Map.of());
        }
        byte[] body = request.getInputStream().readNBytes(LARGEST_BODY + 1);
        if (body.length > LARGEST_BODY) {
            throw new Problem(
                    HttpStatus.CONTENT_TOO_LARGE,
                    "The body is too large",
                    "By this way up to " + LARGEST_BODY + " bytes are taken.",
                    Map.of());
        }
        Arrival arrival = new Arrival(
                intake.nextId(),
                name,
                Transport.of(request.getRemoteAddr(), request.getRequestURI())
                        .with("sentBy", request.getUserPrincipal().getName()),
                request.getContentType(),
                body);
        return intake.take(arrival, inlet).thenApply(receipt -> {
            intake.acknowledged(receipt, name);
            return new Taken(receipt.id().toString(), receipt.ignored());
        });
    }
}
