package org.holtra.service.memory;

import java.time.Duration;
import java.time.InstantSource;
import java.time.ZoneId;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.holtra.core.memory.Memory;
import org.holtra.core.memory.OperationForms;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.RememberedMessages;
import org.holtra.service.journal.entry.Remembered;
import org.holtra.service.reading.Readings;
import org.springframework.stereotype.Component;

/** The timelines of lanes with memory. */
@Component
class LaneTimelines implements TimelineOwner {

    /** Where messages are, and where they go. */
    @Component
    record Store(Journal journal, RememberedMessages remembered, Readings readings, InstantSource clock) {}

    private final States states;
    private final Store store;

    LaneTimelines(States states, Store store) {
        this.states = states;
        this.store = store;
    }

    @Override
    public boolean owns(String name) {
        return !Remembered.isLookout(name);
    }

    @Override
    public Stream<String> names(Setup setup) {
        return withMemory(setup).map(Lane::name);
    }

    private static Stream<Lane> withMemory(Setup setup) {
        return setup.lanes().values().stream().filter(lane -> lane.memory() != null);
    }

    @Override
    public Optional<Duration> lateness(Setup setup, String name) {
        return Optional.ofNullable(setup.lanes().get(name)).map(Lane::memory).map(Memory::lateness);
    }

    @Override
    public Map<String, Duration> kept(Setup setup) {
        Map<String, Duration> kept = new LinkedHashMap<>();
        withMemory(setup)
                .filter(lane -> lane.memory().operation() != null)
                .forEach(lane -> kept.put(lane.name(), lane.memory().operation().kept()));
        return kept;
    }

    @Override
    public boolean isChanged(Setup setup, RememberedKey key, List<Came> came) {
        Memory memory = setup.lanes().get(key.lane()).memory();
        if (memory.operation() == null) {
            return OperationForms.read(key.operation()).isPresent();
        }
        String zone = came.isEmpty() ? key.zone() : came.getLast().zone();
        return !key.operation()
                .equals(States.words(memory.timeline(ZoneId.of(zone)).operation()));
    }

    @Override
    public TimelineStep begin(Setup setup, Notes notes) {
        return new LaneStep(setup, states, notes, store);
    }
}
