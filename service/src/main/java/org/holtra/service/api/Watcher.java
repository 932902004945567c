package org.holtra.service.api;

import java.io.IOException;
import java.time.Duration;
import java.util.Map;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.BooleanSupplier;
import java.util.function.Consumer;
import org.springframework.http.MediaType;
import org.springframework.web.servlet.mvc.method.annotation.SseEmitter;

/** One reader of the live stream. One who reads too slowly misses events and is told how many. */
final class Watcher {

    private record Event(String name, Object data) {}

    private static final int BOUND = 1_000;
    private static final long HEARTBEAT_SECONDS = 10;
    private static final Duration ASKED_EVERY = Duration.ofSeconds(2);

    private final SseEmitter emitter = new SseEmitter(0L);
    private final BlockingQueue<Event> events = new ArrayBlockingQueue<>(BOUND);
    private final AtomicLong missed = new AtomicLong();
    private final Consumer<Watcher> gone;
    private final BooleanSupplier mayGoOn;
    private volatile boolean ended;

    /** @param mayGoOn asked now and then; the stream ends once it says no */
    Watcher(Consumer<Watcher> gone, BooleanSupplier mayGoOn) {
        this.gone = gone;
        this.mayGoOn = mayGoOn;
        emitter.onCompletion(this::end);
        emitter.onError(e -> end());
    }

    SseEmitter emitter() {
        return emitter;
    }

    void start() {
        Thread.ofVirtual().name("watcher").start(this::run);
    }

    void offer(String name, Object data) {
        if (!events.offer(new Event(name, data))) {
            missed.incrementAndGet();
        }
    }

    void end() {
        ended = true;
        gone.accept(this);
    }

    private void run() {
        try {
            emitter.send(SseEmitter.event().comment("hello"));
            long asked = System.nanoTime();
            while (!ended) {
                if (System.nanoTime() - asked > ASKED_EVERY.toNanos()) {
                    asked = System.nanoTime();
                    ended = !mayGoOn.getAsBoolean();
                }
                Event event = events.poll(200, TimeUnit.MILLISECONDS);
                if (event == null) {
                    beat();
                } else {
                    emitter.send(SseEmitter.event().name(event.name).data(event.data, MediaType.APPLICATION_JSON));
                }
                long count = missed.getAndSet(0);
                if (count > 0) {
                    emitter.send(
                            SseEmitter.event().name("missed").data(Map.of("count", count), MediaType.APPLICATION_JSON));
                }
            }
            emitter.complete();
            end();
        } catch (IOException | IllegalStateException e) {
            end(); // the reader is gone; that is how streams end
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            end();
        }
    }

    private long quiet;

    /** Now and then, so that a reader who is gone is found out. */
    private void beat() throws IOException {
        quiet++;
        if (quiet * 200 >= HEARTBEAT_SECONDS * 1000) {
            quiet = 0;
            emitter.send(SseEmitter.event().comment("still here"));
        }
    }
}
