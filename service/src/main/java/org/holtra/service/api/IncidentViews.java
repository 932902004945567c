package org.holtra.service.api;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.holtra.service.incidents.Findings;
import org.holtra.service.incidents.Incident;
import org.holtra.service.incidents.Incidents;
import org.holtra.service.jobs.Job;
import org.holtra.service.jobs.Jobs;
import org.holtra.service.setups.SetupRevision;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/** How incidents are shown, with what can be done about them. */
@Component
class IncidentViews {

    private final Incidents incidents;
    private final Jobs jobs;
    private final Setups setups;

    IncidentViews(Incidents incidents, Jobs jobs, Setups setups) {
        this.incidents = incidents;
        this.jobs = jobs;
        this.setups = setups;
    }

    /** Whether it is being looked into or mended. */
    boolean runs(Incident incident) {
        return Stream.of(incident.look(), incident.mend()).anyMatch(this::runs);
    }

    private boolean runs(UUID job) {
        return job != null
                && jobs.find(job).filter(one -> one.state().equals(Job.RUNNING)).isPresent();
    }

    IncidentView of(Incident asked) {
        boolean looking = runs(asked.look());
        boolean mending = runs(asked.mend());
        // What was found is written before the work ends, so what is read once it has ended is whole.
        Incident incident =
                looking || mending ? asked : incidents.find(asked.number()).orElse(asked);
        UUID last = looking || incident.mend() == null ? incident.look() : incident.mend();
        Findings findings = Incidents.findings(incident.findings());
        return new IncidentView(
                incident.number(),
                incident.title(),
                incident.outlet(),
                incident.device(),
                incident.since(),
                incident.until(),
                incident.byWhom(),
                incident.marked(),
                mending ? "mending" : looking ? "looking" : incident.mend() == null ? "marked" : "mended",
                Optional.ofNullable(last).flatMap(jobs::find).map(JobView::of).orElse(null),
                findings,
                revisions(findings),
                proposals(findings),
                Incidents.acts(incident),
                Incidents.findings(incident.before()),
                Incidents.findings(incident.acted()));
    }

    private List<IncidentView.Revision> revisions(Findings findings) {
        Map<Integer, SetupRevision> known =
                setups.revisions().stream().collect(Collectors.toMap(SetupRevision::revision, Function.identity()));
        return findings.revisions().entrySet().stream()
                .map(one -> {
                    SetupRevision revision = known.get(one.getKey());
                    return new IncidentView.Revision(
                            one.getKey(),
                            revision == null ? null : revision.adopted(),
                            revision == null ? null : revision.adoptedBy(),
                            revision == null ? null : revision.note(),
                            one.getKey() == setups.current().revision(),
                            one.getValue());
                })
                .toList();
    }

    private List<IncidentView.Proposal> proposals(Findings findings) {
        List<IncidentView.Proposal> all = new ArrayList<>();
        String behind = findings.overtaken() == 0
                ? "Nothing of theirs was delivered later on lanes that keep order."
                : "On lanes that keep order, " + findings.overtaken()
                        + " come behind later ones of their devices that are delivered already.";
        if (findings.unread() > 0) {
            all.add(new IncidentView.Proposal(
                    "read",
                    findings.unread(),
                    "Read " + findings.unread() + " messages again by the setup and registry of now: "
                            + findings.readable() + " can be read, and go to every lane that wants them.",
                    behind,
                    "None: no lane has had them."));
        }
        long dead = Findings.total(findings.dead());
        if (dead > 0) {
            all.add(new IncidentView.Proposal(
                    "retry",
                    dead,
                    "Try " + dead + " dead deliveries again, by the lane, outlet and facts of now.",
                    "They go outside the order: what came after them has gone by.",
                    "They go under the keys they had, by which a destination that took one can tell."));
        }
        long unrouted = Findings.total(findings.unrouted());
        if (unrouted > 0) {
            all.add(new IncidentView.Proposal(
                    "take",
                    unrouted,
                    "Deliver what no lane took when it came and lanes want now: " + unrouted + " deliveries.",
                    behind,
                    "None: those lanes have not had them."));
        }
        long delivered = findings.revisions().entrySet().stream()
                .filter(one -> one.getKey() != setups.current().revision())
                .mapToLong(Map.Entry::getValue)
                .sum();
        if (delivered > 0) {
            all.add(new IncidentView.Proposal(
                    "wrong",
                    delivered,
                    "Deliver again what went out under revisions of the setup that were wrong, as it is shaped now.",
                    "Corrections come behind everything that is delivered already.",
                    "Every one of them, on purpose: under a key of its own, with the header Holtra-Corrects that"
                            + " names the first. A destination that does not know the header has both."));
        }
        return all;
    }
}
