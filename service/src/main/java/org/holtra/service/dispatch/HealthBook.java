package org.holtra.service.dispatch;

import java.time.Duration;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import org.holtra.core.delivery.OutletHealth;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;

/** Keeps the health of outlets across restarts. Written a moment after it changes, never on a delivery's way. */
@Component
class HealthBook {

    private static final Logger log = LoggerFactory.getLogger(HealthBook.class);

    private final OutletHealthMapper mapper;
    private final Map<String, OutletHealth> unwritten = new ConcurrentHashMap<>();

    HealthBook(OutletHealthMapper mapper) {
        this.mapper = mapper;
    }

    Map<String, OutletHealth> load() {
        return mapper.all().stream()
                .collect(Collectors.toMap(
                        OutletHealthMapper.Row::outlet,
                        row -> new OutletHealth(
                                OutletHealth.State.valueOf(row.state()),
                                row.reason(),
                                row.since(),
                                row.nextProbe(),
                                row.probes(),
                                Duration.ofMillis(row.stoppedMillis()),
                                Set.of())));
    }

    void changed(String outlet, OutletHealth health) {
        unwritten.put(outlet, health);
    }

    void write() {
        for (String outlet : Set.copyOf(unwritten.keySet())) {
            OutletHealth health = unwritten.remove(outlet);
            try {
                mapper.save(new OutletHealthMapper.Row(
                        outlet,
                        health.state().name(),
                        health.reason(),
                        health.since(),
                        health.nextProbe(),
                        health.probes(),
                        health.stopped().toMillis()));
            } catch (DataAccessException e) {
                unwritten.putIfAbsent(outlet, health);
                log.warn("The state of outlet {} could not be written yet: {}", outlet, e.getMessage());
            }
        }
    }
}
