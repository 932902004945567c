package org.holtra.service.intake;

import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import org.holtra.core.setup.Inlet;
import org.holtra.service.setups.SetupAdopted;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.event.EventListener;
import org.springframework.core.annotation.Order;
import org.springframework.stereotype.Component;

/** Hands each inlet of the active setup to its kind. */
@Component
public class Inlets {

    private static final Logger log = LoggerFactory.getLogger(Inlets.class);

    private final Map<String, InletKind> kinds;
    private final Map<String, String> unopened = new ConcurrentHashMap<>();

    Inlets(Collection<InletKind> kinds) {
        this.kinds = kinds.stream().collect(Collectors.toMap(InletKind::name, kind -> kind));
    }

    /** After the dispatcher, which must know a lane's outlet before a message can come in for it. */
    @EventListener
    @Order(2)
    void adopted(SetupAdopted event) {
        for (InletKind kind : kinds.values()) {
            Map<String, Inlet> inlets = new LinkedHashMap<>();
            event.after().inlets().values().stream()
                    .filter(inlet -> inlet.kind().equals(kind.name()))
                    .forEach(inlet -> inlets.put(inlet.name(), inlet));
            try {
                kind.adopted(inlets);
                inlets.keySet().forEach(unopened::remove);
            } catch (RuntimeException e) {
                log.error(
                        "The inlets of kind {} cannot be opened; those that were open before stay so", kind.name(), e);
                inlets.keySet().forEach(name -> unopened.put(name, e.toString()));
            }
        }
        unopened.keySet().retainAll(event.after().inlets().keySet());
    }

    /** The inlets that could not be opened, and why. */
    public Map<String, String> unopened() {
        return Map.copyOf(unopened);
    }

    public String address(Inlet inlet) {
        return kinds.get(inlet.kind()).address(inlet);
    }
}
