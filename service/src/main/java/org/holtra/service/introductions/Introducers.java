package org.holtra.service.introductions;

import java.time.Instant;
import java.time.InstantSource;
import java.util.Optional;
import java.util.UUID;
import org.holtra.service.cluster.Node;
import org.springframework.stereotype.Component;

/**
 * Which node introduces devices at an outlet: one at a time, so that pace and number at once hold for all nodes together. A node
 * that is gone is followed by the one that asks first.
 */
@Component
public class Introducers {

    private final IntroducerMapper mapper;
    private final Node node;
    private final InstantSource clock;

    /**
     * @param owner the id of this node under which it introduces; null if another node does
     * @param paused since when a person has it pause, and who; null if nobody does
     */
    public record Standing(UUID owner, Paused paused) {}

    public record Paused(String by, Instant since) {}

    Introducers(IntroducerMapper mapper, Node node, InstantSource clock) {
        this.mapper = mapper;
        this.node = node;
        this.clock = clock;
    }

    /** Takes it if nobody has it. */
    public Standing claim(String outlet) {
        UUID id = node.id();
        mapper.claim(outlet, id);
        IntroducerMapper.Row row = mapper.find(outlet);
        return new Standing(row != null && id.equals(row.node()) ? id : null, paused(row));
    }

    public Optional<Paused> paused(String outlet) {
        return Optional.ofNullable(paused(mapper.find(outlet)));
    }

    private static Paused paused(IntroducerMapper.Row row) {
        return row == null || row.pausedBy() == null ? null : new Paused(row.pausedBy(), row.pausedAt());
    }

    public void pause(String outlet, String by) {
        mapper.pause(outlet, by, clock.instant());
    }

    public void goOn(String outlet) {
        mapper.pause(outlet, null, null);
    }

    /** Whether this node may still act under this id. */
    public boolean holds(UUID owner) {
        return owner != null && node.holds(owner);
    }
}
