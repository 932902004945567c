package org.holtra.service.intake;

import jakarta.annotation.PreDestroy;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.TimeUnit;
import org.holtra.core.message.MessageIds;
import org.holtra.core.message.MessageType;
import org.holtra.core.setup.Setup;
import org.holtra.service.database.JournalTransaction;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceEvent;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.setups.Setups;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;

/**
 * Tells lanes what happens to devices, by messages of type {@code status} of Holtra's own inlet, in the order it happened. What no
 * lane takes is not kept.
 */
@Component
class DeviceNews {

    private static final long LONGEST_GOODBYE_SECONDS = 5;
    private static final Logger log = LoggerFactory.getLogger(DeviceNews.class);

    private final OwnMessages messages;
    private final Setups setups;
    private final DeviceRegistry devices;
    private final Dispatcher dispatcher;
    private final Keeping keeping;

    /** One after the other: whoever tells of an event is in the midst of changing a device. */
    private final ExecutorService teller = Executors.newSingleThreadExecutor(
            Thread.ofVirtual().name("device-news").factory());

    /** How a message is kept. */
    @Component
    record Keeping(JournalTransaction transaction, MessageIds ids) {}

    DeviceNews(OwnMessages messages, Setups setups, DeviceRegistry devices, Dispatcher dispatcher, Keeping keeping) {
        this.messages = messages;
        this.setups = setups;
        this.devices = devices;
        this.dispatcher = dispatcher;
        this.keeping = keeping;
    }

    @EventListener
    void happened(DeviceEvent event) {
        Setup setup = setups.current();
        boolean heard =
                setup.lanes().values().stream().anyMatch(lane -> lane.inlets().contains(Setup.OWN_INLET));
        if (!heard) {
            return;
        }
        try {
            teller.execute(() -> tell(event));
        } catch (RejectedExecutionException e) {
            log.info("Device {} {} while the service stops, which no lane is told", event.device(), event.what());
        }
    }

    private void tell(DeviceEvent event) {
        Map<String, Object> data = new LinkedHashMap<>();
        data.put("event", event.what().word());
        data.put("at", event.at().toString());
        data.putAll(event.more());
        boolean simulated = devices.find(event.device()).map(Device::simulated).orElse(false);
        OwnMessages.Own own =
                new OwnMessages.Own(keeping.ids.next(), MessageType.STATUS, data, event.device(), simulated, null);
        List<Delivery.Owed> owed = List.of();
        try {
            owed = keeping.transaction.execute(() -> {
                List<Delivery.Owed> its = messages.keepIfTaken(own, setups.current(), event.at());
                its.forEach(dispatcher::leaves);
                return its;
            });
        } catch (RuntimeException e) {
            log.warn(
                    "Device {} {}, which could not be told to lanes",
                    event.device(),
                    event.what().word(),
                    e);
        }
        owed.forEach(dispatcher::leftInTable);
    }

    @PreDestroy
    void close() throws InterruptedException {
        teller.shutdown();
        if (!teller.awaitTermination(LONGEST_GOODBYE_SECONDS, TimeUnit.SECONDS)) {
            log.warn("News of devices could not be told before the service stopped");
        }
    }
}
