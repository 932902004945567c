package org.holtra.service.api;

import java.security.Principal;
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
@RequestMapping("/api/v1/rereadings")
class RereadingController {

    private final Rereading rereading;
    private final InstantSource clock;

    RereadingController(Rereading rereading, InstantSource clock) {
        this.rereading = rereading;
        this.clock = clock;
    }

    /** Reads messages of the past again, by the setup and the registry of today; in the background. */
    @PostMapping
    @ResponseStatus(HttpStatus.ACCEPTED)
    Rereading.Progress start(@RequestBody Rereading.Order order, Principal principal) {
        if (order.from() == null) {
            throw Problem.badRequest("from", "Say from when on, as an instant in RFC 3339.");
        }
        if (!order.from().isBefore(order.to() == null ? clock.instant() : order.to())) {
            throw Problem.badRequest("from", "The span ends before it begins.");
        }
        return rereading.start(order, principal.getName());
    }

    /** How far a rereading is, and what it found. */
    @GetMapping("/{id}")
    Rereading.Progress find(@PathVariable String id) {
        return rereading
                .find(id)
                .orElseThrow(() -> Problem.notFound("rereading on this node that is not forgotten", id));
    }
}
