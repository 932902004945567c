package org.holtra.service.intake;

import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.stream.Collectors;
import org.holtra.core.setup.Inlet;
import org.holtra.service.setups.SetupAdopted;
import org.springframework.context.event.EventListener;
import org.springframework.core.annotation.Order;
import org.springframework.stereotype.Component;

/** Hands each inlet of the setup in force to its kind. */
@Component
public class Inlets {

    private final Map<String, InletKind> kinds;

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
            kind.adopted(inlets);
        }
    }

    public String address(Inlet inlet) {
        return kinds.get(inlet.kind()).address(inlet);
    }
}
