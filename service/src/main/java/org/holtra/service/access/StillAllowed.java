package org.holtra.service.access;

import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpSession;
import java.time.InstantSource;
import java.util.function.BooleanSupplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;

/** Whether a caller whose answer goes on for long is still let in: its key is there, its session has not ended. */
@Component
public class StillAllowed {

    private static final Logger log = LoggerFactory.getLogger(StillAllowed.class);

    private final ApiKeys keys;
    private final InstantSource clock;

    StillAllowed(ApiKeys keys, InstantSource clock) {
        this.keys = keys;
        this.clock = clock;
    }

    /** What to ask while the answer to this request goes on. */
    public BooleanSupplier of(HttpServletRequest request) {
        if (ApiKeyFilter.carriesKey(request)) {
            String key = ApiKeyFilter.key(request);
            return () -> isGood(key);
        }
        HttpSession session = request.getSession(false);
        return () -> session != null && SessionAge.isGood(session, clock.instant());
    }

    private boolean isGood(String key) {
        try {
            return keys.nameOf(key).isPresent();
        } catch (DataAccessException e) {
            log.debug("A key cannot be checked now; it is asked for again", e);
            return true;
        }
    }
}
