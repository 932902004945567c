package org.holtra.service.api;

import java.security.Principal;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.holtra.service.undertakings.Undertaking;
import org.holtra.service.undertakings.Undertakings;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** What people had done to many things at once, and how far it is. */
@RestController
@RequestMapping("/api/undertakings")
class UndertakingController {

    record Undone(int count) {}

    private final Undertakings undertakings;

    UndertakingController(Undertakings undertakings) {
        this.undertakings = undertakings;
    }

    /** The newest first; at most a hundred. */
    @GetMapping
    List<UndertakingView> latest() {
        return undertakings.latest().stream().map(UndertakingView::of).toList();
    }

    @GetMapping("/{id}")
    UndertakingView find(@PathVariable UUID id) {
        return UndertakingView.of(there(id));
    }

    /** Stops one that runs; what is done stays done. */
    @PostMapping("/{id}/cancel")
    UndertakingView cancel(@PathVariable UUID id, Principal principal) {
        there(id);
        undertakings.cancel(id, principal.getName());
        return UndertakingView.of(there(id));
    }

    /** Takes back what was dropped, as long as that can be. */
    @PostMapping("/{id}/undo")
    Undone undo(@PathVariable UUID id, Principal principal) {
        Undertaking one = there(id);
        if (one.undoUntil() == null || one.undone() != null) {
            throw new Problem(
                    HttpStatus.CONFLICT,
                    "This cannot be taken back",
                    one.undone() != null
                            ? "It was taken back already."
                            : "Only drops can be taken back; for others see what became of each delivery.",
                    Map.of());
        }
        return new Undone(undertakings.undo(id, principal.getName()));
    }

    private Undertaking there(UUID id) {
        return undertakings.find(id).orElseThrow(() -> Problem.notFound("undertaking", id.toString()));
    }
}
