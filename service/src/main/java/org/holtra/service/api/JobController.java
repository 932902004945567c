package org.holtra.service.api;

import io.swagger.v3.oas.annotations.Parameter;
import java.security.Principal;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.holtra.service.jobs.Job;
import org.holtra.service.jobs.Jobs;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Jobs that people started, and their progress. */
@RestController
@RequestMapping("/api/v1/jobs")
class JobController {

    record Undone(int count) {}

    /** @param next to ask for older ones, as {@code after}; null if there are none */
    record JobPage(List<JobView> jobs, String next) {}

    private final Jobs jobs;

    JobController(Jobs jobs) {
        this.jobs = jobs;
    }

    /** Jobs, the newest first. */
    @GetMapping
    JobPage list(
            @Parameter(description = "the `next` of the page before") @RequestParam(required = false) String after,
            @RequestParam(defaultValue = "100") int limit) {
        Paging.After start = Paging.After.of(after);
        List<Job> found = jobs.list(start.at(), start.id(), Paging.checked(limit));
        return new JobPage(
                found.stream().map(JobView::of).toList(),
                Paging.next(found, limit, last -> new Paging.After(last.begun(), last.id()).toString()));
    }

    /** A job and how far it is. */
    @GetMapping("/{id}")
    JobView find(@PathVariable UUID id) {
        return JobView.of(there(id));
    }

    /** Stops one that runs; what is done stays done. */
    @PostMapping("/{id}/cancel")
    JobView cancel(@PathVariable UUID id, Principal principal) {
        there(id);
        jobs.cancel(id, principal.getName());
        return JobView.of(there(id));
    }

    /** Takes back what was dropped, as long as that can be. */
    @PostMapping("/{id}/undo")
    Undone undo(@PathVariable UUID id, Principal principal) {
        Job one = there(id);
        if (one.undoUntil() == null || one.undone() != null) {
            throw new Problem(
                    HttpStatus.CONFLICT,
                    "This cannot be taken back",
                    one.undone() != null
                            ? "It was taken back already."
                            : "Only drops can be taken back; for others see what became of each delivery.",
                    Map.of());
        }
        return new Undone(jobs.undo(id, principal.getName()));
    }

    private Job there(UUID id) {
        return jobs.find(id).orElseThrow(() -> Problem.notFound("job", id.toString()));
    }
}
