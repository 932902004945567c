package org.holtra.service.incidents;

import java.time.Duration;
import java.time.InstantSource;
import java.util.List;
import java.util.UUID;
import org.holtra.core.message.MessageId;
import org.holtra.service.jobs.Job;
import org.holtra.service.jobs.Work;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** Looks into incidents, and mends them; after mending one it looks again, until what it sent has arrived. */
final class IncidentWork {

    static final String LOOK = "look";
    static final String MEND = "mend";

    /** What was made to go needs a moment to arrive. */
    private static final Duration BEFORE_LOOKING_AGAIN = Duration.ofSeconds(3);

    /** What is still on its way so long after the mending began waits for more than a busy moment to pass. */
    private static final Duration PATIENCE = Duration.ofMinutes(2);

    private static final JsonMapper JSON = JsonMapper.shared();

    private IncidentWork() {}

    /** @param incident its id */
    record Terms(UUID incident, long number, String about) {}

    private static Incident incident(IncidentMapper mapper, Job job) {
        Terms terms = JSON.readValue(job.terms(), Terms.class);
        return mapper.byId(terms.incident)
                .orElseThrow(() -> new IllegalStateException("incident " + terms.number + " is no longer there"));
    }

    /**
     * What was seen.
     *
     * @param messages of this page
     * @param findings of this page and those before it
     * @param last the message to go on after; null if that was the last page
     */
    private record Seen(long messages, Findings findings, MessageId last) {}

    /** @param reached null at its beginning */
    private static Seen look(IncidentMapper mapper, Walk walk, Incident incident, String reached) {
        Walk.Page page = walk.page(incident, reached == null ? null : MessageId.parse(reached), null);
        Findings sofar = reached == null ? Findings.NONE : JSON.readValue(incident.findings(), Findings.class);
        Findings findings = sofar.plus(page.findings());
        if (page.last() == null) {
            findings = findings.plus(missing(walk, incident));
        }
        mapper.found(incident.id(), JSON.writeValueAsString(findings));
        return new Seen(page.findings().messages(), findings, page.last());
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
            Seen seen = look(mapper, walk, incident(mapper, job), job.reached());
            return new Step(seen.messages, seen.last == null ? null : seen.last.toString(), Duration.ZERO, List.of());
        }
    }

    @Component
    static final class Mend implements Work {

        private static final String LOOKING = "look ";

        private final IncidentMapper mapper;
        private final Walk walk;
        private final InstantSource clock;

        Mend(IncidentMapper mapper, Walk walk, InstantSource clock) {
            this.mapper = mapper;
            this.walk = walk;
            this.clock = clock;
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
                return lookAgain(job, incident, reached.substring(LOOKING.length()));
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

        private Step lookAgain(Job job, Incident incident, String from) {
            Seen seen = look(mapper, walk, incident, from.isEmpty() ? null : from);
            // What is looked at several times counts once.
            long done = Math.clamp(job.expected() - job.done(), 0, seen.messages);
            if (seen.last != null) {
                return new Step(done, LOOKING + seen.last, Duration.ZERO, List.of(), job.note());
            }
            long waiting = seen.findings.waiting();
            return waiting > 0 && clock.instant().isBefore(job.begun().plus(PATIENCE))
                    ? new Step(done, LOOKING, BEFORE_LOOKING_AGAIN, List.of(), onTheirWay(waiting))
                    : new Step(done, null, Duration.ZERO, List.of());
        }

        private static String onTheirWay(long deliveries) {
            return deliveries == 1 ? "1 delivery is on its way" : deliveries + " deliveries are on their way";
        }
    }
}
