package org.holtra.service.balance;

import static org.holtra.service.database.Columns.column;

import java.time.Instant;
import java.util.List;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;

/** Writes the counts down. */
@Component
public class TallyWriter {

    private static final Logger log = LoggerFactory.getLogger(TallyWriter.class);

    private final Tally tally;
    private final TallyMapper mapper;

    TallyWriter(Tally tally, TallyMapper mapper) {
        this.tally = tally;
        this.mapper = mapper;
    }

    public void write() {
        List<Tally.Count> counts = tally.drain();
        if (counts.isEmpty()) {
            return;
        }
        try {
            mapper.add(
                    column(counts, Tally.Count::minute, Instant[]::new),
                    column(counts, Tally.Count::what, String[]::new),
                    column(counts, Tally.Count::name, String[]::new),
                    column(counts, Tally.Count::count, Long[]::new));
        } catch (DataAccessException e) {
            tally.restore(counts);
            log.debug("Counts could not be written and are kept for the next time: {}", e.getMessage());
        }
    }
}
