package org.holtra.service.api;

import java.util.List;
import org.holtra.service.refusals.Refusal;
import org.holtra.service.refusals.Refusals;
import org.holtra.service.setups.Setups;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Calls that inlets refused. */
@RestController
@RequestMapping("/api/v1/refusals")
class RefusalController {

    /**
     * Calls that were refused.
     *
     * @param refusals the newest first; at most the last two hundred
     * @param slips how many there were of each slip, the latest first
     */
    record Refused(List<Refusal> refusals, List<Refusals.Count> slips) {}

    private final Refusals refusals;
    private final Setups setups;

    RefusalController(Refusals refusals, Setups setups) {
        this.refusals = refusals;
        this.setups = setups;
    }

    /** The last calls that an inlet refused, each with the sender's slip; without an inlet, those to addresses of none. */
    @GetMapping
    Refused list(@RequestParam(required = false) String inlet) {
        if (inlet != null && setups.current().inlet(inlet).isEmpty()) {
            throw Problem.notFound("inlet", inlet);
        }
        String name = inlet == null ? Refusals.NO_INLET : inlet;
        return new Refused(
                refusals.latest(name),
                refusals.counts().stream()
                        .filter(count -> count.inlet().equals(name))
                        .toList());
    }
}
