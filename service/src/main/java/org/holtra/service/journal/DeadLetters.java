package org.holtra.service.journal;

import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.holtra.service.journal.entry.DeadChoice;
import org.holtra.service.journal.entry.DeadContent;
import org.holtra.service.journal.entry.DeadGroup;
import org.holtra.service.journal.sql.DeadLetterMapper;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** What people do to dead letters. */
@Component
public class DeadLetters {

    private final DeadLetterMapper mapper;
    private final InstantSource clock;

    DeadLetters(DeadLetterMapper mapper, InstantSource clock) {
        this.mapper = mapper;
        this.clock = clock;
    }

    /** Those that are meant, by lane, outlet and cause. */
    public List<DeadGroup> chosen(DeadChoice choice) {
        return mapper.chosen(choice, ids(choice));
    }

    /** The next of those that are meant and died by then, after one, in the order of their ids. */
    public List<UUID> next(DeadChoice choice, UUID after, Instant until, int limit) {
        return mapper.next(choice, ids(choice), after, until, limit);
    }

    private static UUID[] ids(DeadChoice choice) {
        return choice.deliveries() == null ? new UUID[0] : choice.deliveries().toArray(UUID[]::new);
    }

    /**
     * @param aim the outlet to go to; null for the one of the lane
     * @param outlets of the lanes there are now, by lane
     * @return the outlets that have something to do, once for each letter
     */
    @Transactional
    public List<String> retry(List<UUID> deliveries, String aim, Map<String, String> outlets) {
        return mapper.retry(
                deliveries.toArray(UUID[]::new),
                clock.instant(),
                aim,
                outlets.keySet().toArray(String[]::new),
                outlets.values().toArray(String[]::new));
    }

    public Optional<DeadContent> find(UUID delivery) {
        return mapper.find(delivery);
    }

    /** False if there is none. */
    public boolean edit(UUID delivery, byte[] content) {
        return mapper.edit(delivery, content) > 0;
    }

    /** @return how many there were */
    @Transactional
    public int drop(List<UUID> deliveries, Instant until, String by, UUID job) {
        return mapper.drop(deliveries.toArray(UUID[]::new), until, by, job);
    }

    /** Takes back what a job dropped, as long as that can be; says how many. */
    public int undrop(UUID job) {
        return mapper.undrop(job, clock.instant());
    }

    /** Called every so often: keeps the count of dead letters short. */
    public void addUp() {
        mapper.addUp();
    }

    /** Settles what was dropped and can no longer be taken back. */
    @Transactional
    public void bury() {
        mapper.bury(clock.instant());
    }
}
