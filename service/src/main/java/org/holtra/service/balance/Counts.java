package org.holtra.service.balance;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;

/** Reads the counts by minute of what was acknowledged, taken by lanes and settled. */
@Component
public class Counts {

    private final TallyMapper mapper;
    private final InstantSource clock;

    Counts(TallyMapper mapper, InstantSource clock) {
        this.mapper = mapper;
        this.clock = clock;
    }

    /** @param to exclusive */
    public List<TallyRow> between(Instant from, Instant to) {
        return mapper.between(from, to);
    }

    /** @param to exclusive */
    public List<TallyRow> between(Instant from, Instant to, Tally.What... whats) {
        return mapper.ofTypes(from, to, Stream.of(whats).map(Tally.What::name).toArray(String[]::new));
    }

    /** What was delivered to each outlet in the last day, 7 days and 30 days, by outlet. */
    public Map<String, OutletTraffic> byOutlet() {
        Instant now = clock.instant();
        return mapper
                .outlets(now.minus(Duration.ofDays(1)), now.minus(Duration.ofDays(7)), now.minus(Duration.ofDays(30)))
                .stream()
                .collect(Collectors.toMap(OutletTraffic::name, traffic -> traffic));
    }

    /** Counts from before are dropped. */
    public void forget(Instant before) {
        mapper.forget(before);
    }

    /** The minutes of outlets from before are added up to days, which is all that is asked of them. */
    public void sumUpTraffic(Instant before) {
        mapper.sumUpTraffic(before);
    }
}
