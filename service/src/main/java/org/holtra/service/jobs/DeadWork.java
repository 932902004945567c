package org.holtra.service.jobs;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.stream.Collectors;
import org.holtra.core.setup.Lane;
import org.holtra.service.journal.DeadLetters;
import org.holtra.service.journal.entry.DeadChoice;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** Tries dead letters again, or sends them elsewhere, or drops them. */
final class DeadWork {

    static final int STEP = 500;
    private static final JsonMapper JSON = JsonMapper.shared();

    private DeadWork() {}

    private static List<UUID> next(DeadLetters dead, DeadChoice choice, Job job) {
        UUID after = job.reached() == null ? null : UUID.fromString(job.reached());
        return dead.next(choice, after, job.begun(), STEP);
    }

    private static String reached(List<UUID> ids) {
        return ids.size() < STEP ? null : ids.getLast().toString();
    }

    @Component
    static final class Retry implements Work {

        private final DeadLetters dead;
        private final Setups setups;

        Retry(DeadLetters dead, Setups setups) {
            this.dead = dead;
            this.setups = setups;
        }

        @Override
        public String what() {
            return "retry";
        }

        @Override
        public Step step(Job job) {
            DeadTerms terms = JSON.readValue(job.terms(), DeadTerms.class);
            List<UUID> ids = next(dead, terms.dead(), job);
            Map<String, String> outlets =
                    setups.current().lanes().values().stream().collect(Collectors.toMap(Lane::name, Lane::outlet));
            List<String> woken = ids.isEmpty() ? List.of() : dead.retry(ids, terms.outlet(), outlets);
            return new Step(woken.size(), reached(ids), Duration.ZERO, woken);
        }
    }

    @Component
    static final class Drop implements Work {

        private final DeadLetters dead;

        Drop(DeadLetters dead) {
            this.dead = dead;
        }

        @Override
        public String what() {
            return "drop";
        }

        @Override
        public Step step(Job job) {
            DeadTerms terms = JSON.readValue(job.terms(), DeadTerms.class);
            List<UUID> ids = next(dead, terms.dead(), job);
            int dropped = ids.isEmpty() ? 0 : dead.drop(ids, job.undoUntil(), job.byWhom(), job.id());
            return new Step(dropped, reached(ids), Duration.ZERO, List.of());
        }
    }
}
