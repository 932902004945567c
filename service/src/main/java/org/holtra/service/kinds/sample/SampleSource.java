package org.holtra.service.kinds.sample;

import java.time.Duration;
import java.time.InstantSource;
import java.util.Map;
import java.util.concurrent.locks.LockSupport;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Transport;
import org.holtra.core.text.DurationText;
import org.holtra.service.connections.Connection.State;
import org.holtra.service.intake.Receipt;
import org.holtra.service.intake.Source;
import org.holtra.service.intake.SourceContext;
import tools.jackson.databind.json.JsonMapper;

/** Sends a reading of one made-up station after the other. */
final class SampleSource implements Source {

    private static final int USUAL_STATIONS = 6;
    private static final Duration USUAL_PAUSE = Duration.ofSeconds(2);
    private static final JsonMapper JSON = JsonMapper.shared();

    private final SourceContext context;
    private final InstantSource clock;
    private final int stations;
    private final Duration every;
    private final Thread thread;
    private volatile boolean paused;
    private volatile boolean closed;

    private SampleSource(SourceContext context, InstantSource clock) {
        Map<String, Object> at = context.inlet().at();
        this.context = context;
        this.clock = clock;
        this.stations = at.get("stations") instanceof Number number ? number.intValue() : USUAL_STATIONS;
        this.every = at.get("every") instanceof String text ? DurationText.parse(text) : USUAL_PAUSE;
        this.thread = Thread.ofVirtual()
                .name("sample-inlet-" + context.inlet().name())
                .unstarted(this::run);
    }

    static SampleSource start(SourceContext context, InstantSource clock) {
        SampleSource source = new SampleSource(context, clock);
        context.connection().become(State.CONNECTED, "made-up stations send");
        source.thread.start();
        return source;
    }

    private void run() {
        // Each is heard at once, so that nobody waits for the round to come to it.
        for (int station = 1; station <= stations && !closed; station++) {
            send(station);
        }
        for (int turn = 0; !closed; turn++) {
            LockSupport.parkNanos(every.toNanos());
            if (!closed && !paused) {
                send(turn % stations + 1);
            }
        }
    }

    private void send(int station) {
        try {
            Receipt receipt = context.take(new Arrival(
                            context.nextId(),
                            context.inlet().name(),
                            Transport.of("", "station " + station),
                            "application/json",
                            JSON.writeValueAsBytes(SampleStations.reading(station, clock.instant()))))
                    .join();
            context.acknowledged(receipt);
            context.connection().good(receipt.id().received());
        } catch (RuntimeException e) {
            // One made-up reading less is no harm; that they stop for good would be.
            context.connection().note("a made-up reading was not kept", e.toString());
        }
    }

    @Override
    public void pause() {
        paused = true;
    }

    @Override
    public void resume() {
        paused = false;
    }

    @Override
    public void close() {
        closed = true;
        LockSupport.unpark(thread);
    }
}
