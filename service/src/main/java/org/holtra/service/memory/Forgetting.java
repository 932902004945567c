package org.holtra.service.memory;

import java.time.InstantSource;
import java.util.List;
import org.holtra.core.setup.Setup;
import org.holtra.service.journal.Journal;
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
    private final List<TimelineOwner> owners;
    private final Journal journal;
    private final InstantSource clock;
    private final int most;

    Forgetting(
            MemoryMapper mapper,
            List<TimelineOwner> owners,
            Setups setups,
            Journal journal,
            HoltraSettings settings,
            InstantSource clock) {
        this.mapper = mapper;
        this.owners = owners;
        this.setups = setups;
        this.journal = journal;
        this.clock = clock;
        this.most = settings.keysOfALane();
    }

    /** Called every so often. */
    public void run() {
        if (journal.isAway()) {
            return;
        }
        Setup setup = setups.current();
        owners.forEach(owner -> owner.kept(setup).forEach((name, kept) -> {
            mapper.forget(name, clock.instant().minus(kept));
            long tooMany = mapper.count(name) - most;
            if (tooMany > 0) {
                log.warn(
                        "{} remembers more than {} keys; {} of which nothing came longest are forgotten",
                        name,
                        most,
                        mapper.forgetOldest(name, tooMany));
            }
        }));
    }
}
