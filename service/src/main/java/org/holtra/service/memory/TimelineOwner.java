package org.holtra.service.memory;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.holtra.core.setup.Setup;

/** What keeps a timeline for each key: lanes with memory, or lookouts. Each has names of its own to remember under. */
public interface TimelineOwner {

    /** Whether a name is one of its own, in any setup. */
    boolean owns(String name);

    Stream<String> names(Setup setup);

    /** How long late messages are waited for; empty if the setup has no such name. */
    Optional<Duration> lateness(Setup setup, String name);

    /** For how long a key is kept of which nothing comes, by name. */
    Map<String, Duration> kept(Setup setup);

    /**
     * Whether something else is done with a known key from now on.
     *
     * @param came what is new to it
     */
    boolean isChanged(Setup setup, RememberedKey key, List<Came> came);

    TimelineStep begin(Setup setup, Notes notes);
}
