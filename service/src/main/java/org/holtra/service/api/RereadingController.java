package org.holtra.service.api;

import java.security.Principal;
import java.time.Instant;
import java.time.InstantSource;
import org.holtra.service.intake.Rereading;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

@RestController
@RequestMapping("/api/rereadings")
class RereadingController {

    /**
     * @param from the first instant of the span
     * @param to now if not given
     * @param correct and {@code dry}: false if not given
     */
    record Wanted(
            Instant from,
            Instant to,
            String inlet,
            String device,
            String model,
            String state,
            Boolean correct,
            Boolean dry) {}

    private final Rereading rereading;
    private final InstantSource clock;

    RereadingController(Rereading rereading, InstantSource clock) {
        this.rereading = rereading;
        this.clock = clock;
    }

    /** Reads messages of the past again, by the setup and the registry of today; in the background. */
    @PostMapping
    @ResponseStatus(HttpStatus.ACCEPTED)
    Rereading.Progress start(@RequestBody Wanted order, Principal principal) {
        if (order.from() == null) {
            throw Problem.badRequest("from", "Say from when on, as an instant in RFC 3339.");
        }
        Instant to = order.to() == null ? clock.instant() : order.to();
        if (!order.from().isBefore(to)) {
            throw Problem.badRequest("from", "The span ends before it begins.");
        }
        return rereading.start(
                new Rereading.Order(
                        order.from(),
                        to,
                        order.inlet(),
                        order.device(),
                        order.model(),
                        order.state(),
                        Boolean.TRUE.equals(order.correct()),
                        Boolean.TRUE.equals(order.dry())),
                principal.getName());
    }

    @GetMapping("/{id}")
    Rereading.Progress one(@PathVariable String id) {
        return rereading.find(id).orElseThrow(() -> Problem.notFound("rereading", id));
    }
}
