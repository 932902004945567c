package org.holtra.service.memory;

import java.time.Duration;
import java.time.InstantSource;
import java.util.LinkedHashMap;
import java.util.Map;
import org.holtra.core.setup.Setup;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.entry.Remembered;
import org.holtra.service.lookouts.Alarms;
import org.holtra.service.settings.HoltraSettings;
import org.holtra.service.setups.Setups;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** Forgets keys of which nothing comes any more, and those that are too many: so memories stay bounded. */
@Component
public class Forgetting {

    private static final Logger log = LoggerFactory.getLogger(Forgetting.class);

    private final MemoryMapper mapper;
    private final Setups setups;
    private final Known known;
    private final InstantSource clock;
    private final int most;

    /** What is known of the past. */
    @Component
    record Known(Journal journal, Alarms alarms) {}

    Forgetting(MemoryMapper mapper, Setups setups, Known known, HoltraSettings settings, InstantSource clock) {
        this.mapper = mapper;
        this.setups = setups;
        this.known = known;
        this.clock = clock;
        this.most = settings.keysOfALane();
    }

    /** Called every so often. */
    public void run() {
        if (known.journal.isAway()) {
            return;
        }
        kept(setups.current()).forEach((name, kept) -> {
            mapper.forget(name, clock.instant().minus(kept));
            long tooMany = mapper.count(name) - most;
            if (tooMany > 0) {
                log.warn(
                        "{} remembers more than {} keys; {} of which nothing came longest are forgotten",
                        name,
                        most,
                        mapper.forgetOldest(name, tooMany));
            }
        });
        known.alarms.forget();
    }

    /** For how long what remembers keeps a key of which nothing comes. */
    private static Map<String, Duration> kept(Setup setup) {
        Map<String, Duration> kept = new LinkedHashMap<>();
        setup.lanes().values().stream()
                .filter(lane -> lane.memory() != null && lane.memory().operation() != null)
                .forEach(lane -> kept.put(lane.name(), lane.memory().operation().kept()));
        setup.lookouts()
                .values()
                .forEach(lookout -> kept.put(
                        Remembered.LOOKOUT + lookout.name(), lookout.watch().kept()));
        return kept;
    }
}
