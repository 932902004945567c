package org.holtra.service.incidents;

import java.time.Duration;
import java.util.List;
import java.util.UUID;
import org.holtra.core.message.MessageId;
import org.holtra.service.jobs.Job;
import org.holtra.service.jobs.Work;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** Looks into incidents, and mends them; after mending one it looks again. */
final class IncidentWork {

    static final String LOOK = "look";
    static final String MEND = "mend";

    /** What was made to go needs a moment to arrive. */
    private static final Duration BEFORE_LOOKING_AGAIN = Duration.ofSeconds(3);

    private static final JsonMapper JSON = JsonMapper.shared();

    private IncidentWork() {}

    /** @param incident its id */
    record Terms(UUID incident, long number, String about) {}

    private static Incident incident(IncidentMapper mapper, Job job) {
        Terms terms = JSON.readValue(job.terms(), Terms.class);
        return mapper.byId(terms.incident)
                .orElseThrow(() -> new IllegalStateException("incident " + terms.number + " is no longer there"));
    }

    /** @param reached null at its beginning */
    private static Work.Step look(IncidentMapper mapper, Walk walk, Incident incident, String reached) {
        Walk.Page page = walk.page(incident, reached == null ? null : MessageId.parse(reached), null);
        Findings sofar = reached == null ? Findings.NONE : JSON.readValue(incident.findings(), Findings.class);
        Findings findings = sofar.plus(page.findings());
        if (page.last() == null) {
            findings = findings.plus(missing(walk, incident));
        }
        mapper.found(incident.id(), JSON.writeValueAsString(findings));
        return new Work.Step(
                page.findings().messages(),
                page.last() == null ? null : page.last().toString(),
                Duration.ZERO,
                List.of());
    }

    private static Findings missing(Walk walk, Incident incident) {
        return Findings.missing(walk.missing(incident));
    }

    @Component
    static final class Look implements Work {

        private final IncidentMapper mapper;
        private final Walk walk;

        Look(IncidentMapper mapper, Walk walk) {
            this.mapper = mapper;
            this.walk = walk;
        }

        @Override
        public String what() {
            return LOOK;
        }

        @Override
        public Step step(Job job) {
            return look(mapper, walk, incident(mapper, job), job.reached());
        }
    }

    @Component
    static final class Mend implements Work {

        private static final String LOOKING = "look ";

        private final IncidentMapper mapper;
        private final Walk walk;

        Mend(IncidentMapper mapper, Walk walk) {
            this.mapper = mapper;
            this.walk = walk;
        }

        @Override
        public String what() {
            return MEND;
        }

        @Override
        public Step step(Job job) {
            Incident incident = incident(mapper, job);
            String reached = job.reached();
            if (reached != null && reached.startsWith(LOOKING)) {
                String from = reached.substring(LOOKING.length());
                Step step = look(mapper, walk, incident, from.isEmpty() ? null : from);
                return step.reached() == null
                        ? step
                        : new Step(step.done(), LOOKING + step.reached(), step.pause(), step.outlets());
            }
            Walk.Page page = walk.page(
                    incident,
                    reached == null ? null : MessageId.parse(reached),
                    JSON.readValue(incident.acts(), Acts.class));
            Findings acted = JSON.readValue(incident.acted(), Findings.class).plus(page.findings());
            mapper.acted(incident.id(), JSON.writeValueAsString(acted));
            boolean last = page.last() == null;
            return new Step(
                    page.findings().messages(),
                    last ? LOOKING : page.last().toString(),
                    last ? BEFORE_LOOKING_AGAIN : Duration.ZERO,
                    page.outlets());
        }
    }
}
