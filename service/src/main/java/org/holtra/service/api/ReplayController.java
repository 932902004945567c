package org.holtra.service.api;

import java.security.Principal;
import java.time.Instant;
import java.time.InstantSource;
import org.holtra.core.expression.ExpressionProblem;
import org.holtra.core.setup.Setup;
import org.holtra.service.jobs.Jobs;
import org.holtra.service.jobs.ReplayTerms;
import org.holtra.service.jobs.ReplayWork;
import org.holtra.service.setups.Setups;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Delivers stored messages again. */
@RestController
@RequestMapping("/api/v1/replays")
class ReplayController {

    private final Setups setups;
    private final ReplayWork work;
    private final Jobs jobs;
    private final InstantSource clock;

    ReplayController(Setups setups, ReplayWork work, Jobs jobs, InstantSource clock) {
        this.setups = setups;
        this.work = work;
        this.jobs = jobs;
        this.clock = clock;
    }

    /** Counts what would be delivered again; delivers nothing. */
    @PostMapping("/preview")
    ReplayWork.Preview preview(@RequestBody ReplayTerms terms) {
        try {
            return work.preview(checked(terms));
        } catch (ExpressionProblem e) {
            throw wrong(e);
        }
    }

    /** Delivers stored messages again, as a job. */
    @PostMapping
    @ResponseStatus(HttpStatus.ACCEPTED)
    JobView replay(@RequestBody ReplayTerms terms, Principal principal) {
        ReplayTerms checked = checked(terms);
        try {
            ReplayWork.Preview preview = work.preview(checked);
            return JobView.of(jobs.begin("replay", checked, principal.getName(), preview.deliveries(), null));
        } catch (ExpressionProblem e) {
            throw wrong(e);
        }
    }

    private static Problem wrong(ExpressionProblem e) {
        return Problem.badRequest("where", e.getMessage() + "\n" + e.picture());
    }

    private ReplayTerms checked(ReplayTerms terms) {
        Setup setup = setups.current();
        if (terms.lane() == null || !setup.lanes().containsKey(terms.lane())) {
            throw Problem.badRequest("lane", "There is no lane `" + terms.lane() + "`.");
        }
        if (terms.unrouted() && setup.lanes().get(terms.lane()).memory() != null) {
            throw Problem.badRequest(
                    "unrouted",
                    "Lane `" + terms.lane() + "` has a memory, so what it did not take cannot go by itself;"
                            + " read it again with `holtra message reread`, and the memory gets it.");
        }
        if (terms.outlet() != null && !setup.outlets().containsKey(terms.outlet())) {
            throw Problem.badRequest("outlet", "There is no outlet `" + terms.outlet() + "`.");
        }
        if (terms.from() == null) {
            throw Problem.badRequest("from", "Say from when on: an instant such as 2026-04-01T00:00:00Z.");
        }
        if (terms.perSecond() != null && !(terms.perSecond() > 0)) {
            throw Problem.badRequest("perSecond", "The pace is a number above 0.");
        }
        // What came after the replay began is not part of it, or it would never end.
        Instant now = clock.instant();
        Instant to = terms.to() == null || terms.to().isAfter(now) ? now : terms.to();
        if (!terms.from().isBefore(to)) {
            throw Problem.badRequest("to", "The span ends before it begins.");
        }
        return new ReplayTerms(
                terms.lane(),
                terms.outlet(),
                terms.from(),
                to,
                terms.device(),
                terms.where(),
                terms.unrouted(),
                terms.sameKey(),
                terms.perSecond());
    }
}
