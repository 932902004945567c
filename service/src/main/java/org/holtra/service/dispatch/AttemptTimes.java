package org.holtra.service.dispatch;

import io.micrometer.core.instrument.MeterRegistry;
import io.micrometer.core.instrument.Timer;
import java.time.Duration;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import org.holtra.core.delivery.Verdict;
import org.springframework.stereotype.Component;

/** How long attempts took, by outlet and verdict, for whoever watches from outside. */
@Component
class AttemptTimes {

    /** Outlets come and go; more than this many pairs are not told apart. */
    private static final int MOST = 1_000;

    private static final Duration[] STEPS = {
        Duration.ofMillis(5),
        Duration.ofMillis(25),
        Duration.ofMillis(100),
        Duration.ofMillis(500),
        Duration.ofSeconds(2),
        Duration.ofSeconds(10),
        Duration.ofSeconds(60)
    };

    private record Of(String outlet, String verdict) {}

    private final MeterRegistry registry;
    private final Map<Of, Timer> timers = new ConcurrentHashMap<>();

    AttemptTimes(MeterRegistry registry) {
        this.registry = registry;
    }

    void took(String outlet, Verdict verdict, long micros) {
        Of of = new Of(outlet, verdict.word());
        if (!timers.containsKey(of) && timers.size() >= MOST) {
            of = new Of("others", verdict.word());
        }
        timers.computeIfAbsent(of, this::timer).record(micros, TimeUnit.MICROSECONDS);
    }

    private Timer timer(Of of) {
        return Timer.builder("holtra.attempts")
                .description("Attempts of deliveries, and how long they took.")
                .tag("outlet", of.outlet)
                .tag("verdict", of.verdict)
                .serviceLevelObjectives(STEPS)
                .register(registry);
    }
}
