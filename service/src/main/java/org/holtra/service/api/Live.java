package org.holtra.service.api;

import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.BooleanSupplier;
import org.holtra.service.history.LaneState;
import org.holtra.service.journal.JournalListener;
import org.holtra.service.journal.Settlement;
import org.holtra.service.journal.entry.StoredMessage;
import org.springframework.context.SmartLifecycle;
import org.springframework.stereotype.Component;
import org.springframework.web.servlet.mvc.method.annotation.SseEmitter;

/** Passes what is committed on to those who watch, as server-sent events. Without watchers it costs nothing. */
@Component
class Live implements JournalListener, SmartLifecycle {

    /** @param state {@code waiting}, {@code delivered} or {@code dead} */
    record DeliveryEvent(String message, String lane, String state, int attempts) {}

    private final Set<Watcher> watchers = ConcurrentHashMap.newKeySet();
    private volatile boolean running;

    /** @param mayGoOn asked now and then; the stream ends once it says no */
    SseEmitter watch(BooleanSupplier mayGoOn) {
        Watcher watcher = new Watcher(watchers::remove, mayGoOn);
        watchers.add(watcher);
        watcher.start();
        return watcher.emitter();
    }

    @Override
    public void kept(StoredMessage message) {
        if (!watchers.isEmpty()) {
            Map<UUID, List<LaneState>> none = Map.of();
            send("message", MessageView.of(message, none));
        }
    }

    @Override
    public void settled(Settlement settlement) {
        if (!watchers.isEmpty()) {
            send(
                    "delivery",
                    new DeliveryEvent(
                            settlement.owed().message().toString(),
                            settlement.owed().lane(),
                            settlement.fate().name().toLowerCase(java.util.Locale.ROOT),
                            settlement.owed().attempts()));
        }
    }

    private void send(String name, Object event) {
        watchers.forEach(watcher -> watcher.offer(name, event));
    }

    @Override
    public void start() {
        running = true;
    }

    /** Ends all streams, so that the web server need not wait for their readers. */
    @Override
    public void stop() {
        running = false;
        watchers.forEach(Watcher::end);
    }

    @Override
    public boolean isRunning() {
        return running;
    }

    @Override
    public int getPhase() {
        return Integer.MAX_VALUE;
    }
}
