package org.holtra.service.api;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import org.holtra.service.balance.Balance;
import org.holtra.service.balance.BalanceSheet;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

@RestController
@RequestMapping("/api/v1/balance")
class BalanceController {

    private static final Duration USUAL_WINDOW = Duration.ofHours(1);

    private final BalanceSheet sheet;
    private final InstantSource clock;

    BalanceController(BalanceSheet sheet, InstantSource clock) {
        this.sheet = sheet;
        this.clock = clock;
    }

    /** The balance of a window, widened to whole minutes; of the last hour if nothing is said. */
    @GetMapping
    Balance balance(@RequestParam(required = false) Instant from, @RequestParam(required = false) Instant to) {
        Instant end = to == null ? clock.instant() : to;
        Instant start = from == null ? end.minus(USUAL_WINDOW) : from;
        if (!start.isBefore(end)) {
            throw Problem.badRequest("from", "The window ends before it begins.");
        }
        return sheet.between(start, end);
    }

    /** The messages for which a window does not balance; at most a thousand. */
    @GetMapping("/differences")
    List<Balance.Difference> differences(
            @RequestParam(required = false) Instant from, @RequestParam(required = false) Instant to) {
        Instant end = to == null ? clock.instant() : to;
        return sheet.differences(from == null ? end.minus(USUAL_WINDOW) : from, end);
    }
}
