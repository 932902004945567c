package org.holtra.service.lookouts;

import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.holtra.core.setup.Lookout;
import org.holtra.core.setup.Setup;
import org.holtra.service.journal.entry.Remembered;
import org.holtra.service.memory.Came;
import org.holtra.service.memory.Notes;
import org.holtra.service.memory.RememberedKey;
import org.holtra.service.memory.States;
import org.holtra.service.memory.TimelineOwner;
import org.holtra.service.memory.TimelineStep;
import org.springframework.stereotype.Component;

/** The timelines of lookouts. */
@Component
class LookoutTimelines implements TimelineOwner {

    private final States states;
    private final LookoutStep.Outside outside;

    LookoutTimelines(States states, LookoutStep.Outside outside) {
        this.states = states;
        this.outside = outside;
    }

    @Override
    public boolean owns(String name) {
        return Remembered.isLookout(name);
    }

    @Override
    public Stream<String> names(Setup setup) {
        return setup.lookouts().keySet().stream().map(name -> Remembered.LOOKOUT + name);
    }

    @Override
    public Optional<Duration> lateness(Setup setup, String name) {
        return Optional.ofNullable(setup.lookouts().get(Remembered.lookout(name)))
                .map(Lookout::lateness);
    }

    @Override
    public Map<String, Duration> kept(Setup setup) {
        Map<String, Duration> kept = new LinkedHashMap<>();
        setup.lookouts()
                .values()
                .forEach(lookout -> kept.put(
                        Remembered.LOOKOUT + lookout.name(), lookout.watch().kept()));
        return kept;
    }

    @Override
    public boolean isChanged(Setup setup, RememberedKey key, List<Came> came) {
        Lookout lookout = setup.lookouts().get(Remembered.lookout(key.lane()));
        return !key.operation().equals(States.words(lookout.watch()));
    }

    @Override
    public TimelineStep begin(Setup setup, Notes notes) {
        return new LookoutStep(setup, states, notes, outside);
    }
}
