package org.holtra.service.api;

import java.security.Principal;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.stream.Collectors;
import org.holtra.core.setup.Lane;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.journal.DeadGroup;
import org.holtra.service.journal.DeadLetter;
import org.holtra.service.journal.Records;
import org.holtra.service.setups.Setups;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

@RestController
@RequestMapping("/api/dead")
class DeadLetterController {

    private static final int MOST = 1_000;

    /** @param total of all dead letters, whatever was asked for */
    record Dead(long total, List<DeadGroup> groups, List<DeadLetter> letters) {}

    /**
     * Which dead letters: these deliveries; or those of a lane, outlet and cause; or, only if said so, all.
     *
     * @param all must be true to mean every dead letter there is
     */
    record Chosen(List<UUID> deliveries, String lane, String outlet, String cause, Boolean all) {}

    record Done(int count) {}

    private final Records records;
    private final Setups setups;
    private final Dispatcher dispatcher;

    DeadLetterController(Records records, Setups setups, Dispatcher dispatcher) {
        this.records = records;
        this.setups = setups;
        this.dispatcher = dispatcher;
    }

    /** Dead letters, the newest first, and how many there are by lane and cause. */
    @GetMapping
    Dead list(
            @RequestParam(required = false) String lane,
            @RequestParam(required = false) String outlet,
            @RequestParam(required = false) String cause,
            @RequestParam(defaultValue = "200") int limit) {
        if (limit < 1 || limit > MOST) {
            throw Problem.badRequest("limit", "The limit is a number from 1 to " + MOST + ".");
        }
        List<DeadGroup> groups = records.deadGroups();
        return new Dead(
                groups.stream().mapToLong(DeadGroup::count).sum(), groups, records.dead(lane, outlet, cause, limit));
    }

    /** Tries dead letters again, with the newest shape, facts and outlet of their lanes. */
    @PostMapping("/retry")
    Done retry(@RequestBody Chosen chosen) {
        Map<String, String> outlets =
                setups.current().lanes().values().stream().collect(Collectors.toMap(Lane::name, Lane::outlet));
        List<String> woken = records.retryDead(deliveries(chosen), outlets);
        woken.stream().distinct().forEach(dispatcher::wake);
        return new Done(woken.size());
    }

    /** Drops dead letters for good; their messages stay, and their outcome says who dropped them. */
    @PostMapping("/drop")
    Done drop(@RequestBody Chosen chosen, Principal principal) {
        return new Done(records.dropDead(deliveries(chosen), "dropped by " + principal.getName()));
    }

    private List<UUID> deliveries(Chosen chosen) {
        if (chosen.deliveries() != null && !chosen.deliveries().isEmpty()) {
            return chosen.deliveries();
        }
        if (chosen.lane() == null
                && chosen.outlet() == null
                && chosen.cause() == null
                && !Boolean.TRUE.equals(chosen.all())) {
            throw Problem.badRequest(
                    "deliveries", "Say which: deliveries, or a lane, an outlet or a cause; or all, to mean every one.");
        }
        return records.deadIds(chosen.lane(), chosen.outlet(), chosen.cause());
    }
}
