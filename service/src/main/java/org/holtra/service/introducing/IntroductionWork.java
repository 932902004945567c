package org.holtra.service.introducing;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.StringJoiner;
import java.util.stream.Stream;
import org.holtra.core.introduction.StepOutcome;
import org.holtra.service.introductions.IntroductionState;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.jobs.Job;
import org.holtra.service.jobs.Work;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** Has many devices introduced, or removed, and follows how far that is. */
final class IntroductionWork {

    static final String INTRODUCE = "introduce";
    static final String REMOVE = "remove-introduced";
    static final String COMPARE = "compare-introduced";

    private static final int STEP = 500;
    private static final String ASKED = "asked";
    private static final Duration LOOK_AGAIN = Duration.ofMillis(500);
    private static final JsonMapper JSON = JsonMapper.shared();

    private IntroductionWork() {}

    private interface Asking {
        void ask(String outlet, List<String> keys);
    }

    /** Asks for some more, or, once all are asked for, looks how many are left. */
    private static Work.Step step(Job job, Introductions introductions, Asking asking) {
        IntroductionTerms terms = JSON.readValue(job.terms(), IntroductionTerms.class);
        if (!ASKED.equals(job.reached())) {
            int from = job.reached() == null ? 0 : Integer.parseInt(job.reached());
            int to = Math.min(from + STEP, terms.keys().size());
            if (to > from) {
                asking.ask(terms.outlet(), terms.keys().subList(from, to));
            }
            boolean all = to == terms.keys().size();
            return new Work.Step(0, all ? ASKED : Integer.toString(to), Duration.ZERO, List.of());
        }
        Map<String, Long> counts = introductions.counts(terms.outlet(), job.id());
        long left = counts.get(IntroductionState.WAITING.word())
                + counts.get(IntroductionState.INTRODUCING.word())
                + counts.get(IntroductionState.REMOVING.word())
                + triedAgain(counts);
        long done = terms.keys().size() - left - job.done();
        return new Work.Step(
                Math.max(0, done),
                left == 0 ? null : ASKED,
                LOOK_AGAIN,
                List.of(),
                left == 0 ? told(counts) : waits(introductions.hindrance(job.id())));
    }

    /** What is refused for all devices alike is tried again by itself. */
    private static long triedAgain(Map<String, Long> counts) {
        return Stream.of(StepOutcome.Why.values())
                .filter(StepOutcome.Why::isGeneral)
                .mapToLong(why -> counts.getOrDefault("refused: " + why.word(), 0L))
                .sum();
    }

    private static String waits(String reason) {
        return reason == null ? null : "waits: " + reason;
    }

    private static String told(Map<String, Long> counts) {
        StringJoiner told = new StringJoiner(", ");
        counts.forEach((what, count) -> {
            if (count > 0 && !what.equals(IntroductionState.REFUSED.word())) {
                told.add(count + " " + what);
            }
        });
        return told.length() == 0 ? null : told.toString();
    }

    @Component
    static final class Introduce implements Work {

        private final Introductions introductions;
        private final Introducer introducer;

        Introduce(Introductions introductions, Introducer introducer) {
            this.introductions = introductions;
            this.introducer = introducer;
        }

        @Override
        public String what() {
            return INTRODUCE;
        }

        @Override
        public Step step(Job job) {
            return IntroductionWork.step(job, introductions, (outlet, keys) -> {
                introductions.askAgain(outlet, keys, job.byWhom(), job.id());
                introducer.goOn(outlet);
            });
        }
    }

    @Component
    static final class Remove implements Work {

        private final Introductions introductions;
        private final Introducer introducer;

        Remove(Introductions introductions, Introducer introducer) {
            this.introductions = introductions;
            this.introducer = introducer;
        }

        @Override
        public String what() {
            return REMOVE;
        }

        @Override
        public Step step(Job job) {
            return IntroductionWork.step(job, introductions, (outlet, keys) -> {
                introductions.remove(outlet, keys, job.byWhom(), job.id());
                introducer.goOn(outlet);
            });
        }
    }
}
