package org.holtra.service.incidents;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.holtra.core.setup.Lane;
import org.holtra.service.jobs.Job;
import org.holtra.service.jobs.Jobs;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/** Marks incidents, has them looked into and mended. */
@Component
public class Incidents {

    private static final JsonMapper JSON = JsonMapper.shared();

    private final IncidentMapper mapper;
    private final Walk walk;
    private final Jobs jobs;
    private final InstantSource clock;

    Incidents(IncidentMapper mapper, Walk walk, Jobs jobs, InstantSource clock) {
        this.mapper = mapper;
        this.walk = walk;
        this.jobs = jobs;
        this.clock = clock;
    }

    /** What went well within a stretch of a history, and what did not. */
    public record Stretch(Instant at, long well, long ill) {}

    /**
     * The history of an outlet's attempts, or of a device's messages, in stretches of the same length that are not empty.
     *
     * @param device null for the outlet
     */
    public List<Stretch> history(String outlet, String device, Instant from, Instant to, Duration each) {
        double seconds = each.toMillis() / 1e3;
        List<IncidentMapper.Bucket> buckets = device != null
                ? mapper.ofDevice(device, from, to, seconds)
                : mapper.ofLanes(
                        walk.setup().lanesTo(outlet).stream().map(Lane::name).toArray(String[]::new),
                        from,
                        to,
                        seconds);
        return buckets.stream()
                .map(bucket -> new Stretch(bucket.at(), bucket.well(), bucket.ill()))
                .toList();
    }

    /** What a person marked. */
    public record Mark(String title, String outlet, String device, Instant since, Instant until) {}

    /** Marks one, and begins to look into it. */
    public Incident mark(Mark mark, String by) {
        UUID id = UUID.randomUUID();
        mapper.mark(
                id,
                mark.title(),
                mark.outlet(),
                mark.device(),
                mark.since(),
                mark.until(),
                by,
                clock.instant(),
                JSON.writeValueAsString(Findings.NONE));
        return look(mapper.byId(id).orElseThrow(), by);
    }

    /** Looks into one anew. */
    public Incident look(Incident incident, String by) {
        Job look = jobs.begin(IncidentWork.LOOK, terms(incident), by, walk.length(incident), null);
        mapper.looking(incident.id(), look.id());
        return mapper.byId(incident.id()).orElseThrow();
    }

    /** Empty if it is being mended already, or was: an incident is mended once. */
    @Transactional
    public Optional<Incident> mend(Incident incident, Acts acts, String by) {
        int decided =
                mapper.decide(incident.id(), JSON.writeValueAsString(acts), JSON.writeValueAsString(Findings.NONE));
        if (decided == 0) {
            return Optional.empty();
        }
        // Each message is gone through twice: it is mended, and looked at afterwards.
        Job mend = jobs.begin(IncidentWork.MEND, terms(incident), by, 2 * walk.length(incident), null);
        mapper.mending(incident.id(), mend.id());
        return mapper.byId(incident.id());
    }

    private static IncidentWork.Terms terms(Incident incident) {
        return new IncidentWork.Terms(incident.id(), incident.number(), incident.about());
    }

    /**
     * The newest first.
     *
     * @param after the number of the last one of the page before; null to begin
     */
    public List<Incident> list(Long after, int limit) {
        return mapper.list(after, limit);
    }

    public Optional<Incident> find(long number) {
        return mapper.find(number);
    }

    /** False if there is none, or something was done about it already. */
    public boolean forget(long number) {
        return mapper.forget(number) > 0;
    }

    public static Findings findings(String json) {
        return json == null ? null : JSON.readValue(json, Findings.class);
    }

    public static Acts acts(Incident incident) {
        return incident.acts() == null ? null : JSON.readValue(incident.acts(), Acts.class);
    }
}
