package org.holtra.service.kinds.http;

import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.setup.Inlet;
import org.springframework.stereotype.Component;

/** The http inlets in force, by path. */
@Component
class HttpInlets {

    private static final int USUAL_LIMIT = 1 << 20;

    /**
     * An inlet as the servlet needs it.
     *
     * @param maxBytes the largest body it takes
     * @param gate how much it takes at a time
     * @param contentTypes those it takes, in lower case; empty for any
     */
    record Door(Inlet inlet, String credential, int maxBytes, List<String> contentTypes, Gate gate) {

        /** @param header the value of Content-Type, or null */
        boolean takes(String header) {
            if (contentTypes.isEmpty()) {
                return true;
            }
            String type = header == null ? "" : header.split(";", 2)[0].strip().toLowerCase(Locale.ROOT);
            return contentTypes.contains(type);
        }
    }

    private volatile Map<String, Door> doors = Map.of();

    void adopted(Map<String, Inlet> inlets) {
        Map<String, Door> next = new HashMap<>();
        for (Inlet inlet : inlets.values()) {
            Map<String, Object> at = inlet.at();
            List<String> types = at.get("contentTypes") instanceof List<?> list
                    ? list.stream()
                            .map(type -> type.toString().toLowerCase(Locale.ROOT))
                            .toList()
                    : List.of();
            int limit = at.get("maxBytes") instanceof Number number ? number.intValue() : USUAL_LIMIT;
            next.put(
                    (String) at.get("path"), new Door(inlet, (String) at.get("credential"), limit, types, gate(inlet)));
        }
        doors = Map.copyOf(next);
    }

    /** The one there was, if its bounds are the same: what is under way counts on. */
    private Gate gate(Inlet inlet) {
        double rate = inlet.at().get("perSecond") instanceof Number number ? number.doubleValue() : 0;
        int most = inlet.at().get("atOnce") instanceof Number number ? number.intValue() : 0;
        return doors.values().stream()
                .filter(door -> door.inlet.name().equals(inlet.name()) && door.gate.isLike(rate, most))
                .map(Door::gate)
                .findFirst()
                .orElseGet(() -> new Gate(rate, most, System::nanoTime));
    }

    Optional<Door> at(String path) {
        return Optional.ofNullable(doors.get(path));
    }
}
