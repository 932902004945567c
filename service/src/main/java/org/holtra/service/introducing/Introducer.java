package org.holtra.service.introducing;

import jakarta.annotation.PreDestroy;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.cluster.ClusterEvent;
import org.holtra.service.credentials.CredentialChanged;
import org.holtra.service.devices.DeviceEvent;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.setups.SetupAdopted;
import org.holtra.service.setups.Setups;
import org.springframework.context.event.EventListener;
import org.springframework.core.annotation.Order;
import org.springframework.stereotype.Component;

/** Introduces devices at the outlets that have a recipe. */
@Component
public class Introducer {

    private final IntroducerContext context;
    private final Setups setups;
    private final Introductions introductions;
    private final Map<String, OutletIntroducer> outlets = new ConcurrentHashMap<>();

    Introducer(IntroducerContext context, Setups setups, Introductions introductions) {
        this.context = context;
        this.setups = setups;
        this.introductions = introductions;
    }

    /** Called every so often. */
    public void tick() {
        Setup setup = setups.current();
        Set<String> wanted = new HashSet<>();
        for (Outlet outlet : setup.outlets().values()) {
            if (outlet.recipe() != null) {
                wanted.add(outlet.name());
                outlets.computeIfAbsent(outlet.name(), name -> new OutletIntroducer(name, context))
                        .tick();
            }
        }
        outlets.keySet().retainAll(wanted);
    }

    /** A changed recipe or outlet may have mended what was refused. */
    @EventListener
    @Order(2)
    void adopted(SetupAdopted event) {
        for (Outlet outlet : event.after().outlets().values()) {
            Outlet before = event.before().outlets().get(outlet.name());
            if (outlet.recipe() != null && before != null && !outlet.equals(before)) {
                mended(outlet.name());
            }
        }
    }

    @EventListener
    void credentialChanged(CredentialChanged event) {
        setups.current().outlets().values().stream()
                .filter(outlet -> outlet.recipe() != null && event.name().equals(outlet.credential()))
                .forEach(outlet -> mended(outlet.name()));
    }

    /** What a recipe missed of a device may be known now. */
    @EventListener
    void deviceChanged(DeviceEvent event) {
        if (event.what() == DeviceEvent.What.FACTS_CHANGED) {
            setups.current().outlets().values().stream()
                    .filter(outlet -> outlet.recipe() != null)
                    .forEach(outlet -> introductions.againForFacts(outlet.name(), event.device()));
        }
    }

    /** A person asked for something, here or at another node. */
    @EventListener
    void on(ClusterEvent event) {
        if (event.is(ClusterEvent.Topic.INTRODUCTION)) {
            String[] name = event.name().split(" ", 2);
            OutletIntroducer one = outlets.get(name[0]);
            if (one != null && name.length == 2 && name[1].isEmpty()) {
                one.mended();
            } else if (one != null) {
                one.look();
            }
        }
    }

    /** Tries again what was refused, and at once. */
    public void mended(String outlet) {
        introductions.again(outlet);
        goOn(outlet);
    }

    /** Whatever stood in the way may be gone; a device is tried at once, by whichever node introduces there. */
    public void goOn(String outlet) {
        OutletIntroducer one = outlets.get(outlet);
        if (one != null) {
            one.mended();
        }
        introductions.mended(outlet);
    }

    /** Why nothing is introduced at an outlet for now; null if nothing is in the way. */
    public String standsStill(String outlet) {
        OutletIntroducer one = outlets.get(outlet);
        return one == null ? null : one.standsStill();
    }

    @PreDestroy
    public void close() {
        outlets.values().forEach(OutletIntroducer::close);
    }
}
