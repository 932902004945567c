package org.holtra.service.kinds.http;

import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Stream;
import org.holtra.core.reading.content.Format;
import org.holtra.core.setup.Inlet;
import org.holtra.service.connections.Connection.State;
import org.holtra.service.httpclient.HttpCredential;
import org.holtra.service.intake.Source;
import org.holtra.service.intake.SourceContext;
import org.springframework.stereotype.Component;

/** The open http inlets, by path. */
@Component
class HttpInlets {

    private static final int USUAL_LIMIT = 1 << 20;

    /**
     * An inlet as the servlet needs it.
     *
     * @param path where it is
     * @param maxBytes the largest body it takes
     * @param gate how much it takes at a time
     * @param headers those it keeps beside the usual ones, in lower case
     * @param contentTypes those it takes, in lower case; empty for those of its format
     */
    record Door(
            SourceContext context,
            InletPath path,
            String credential,
            int maxBytes,
            List<String> contentTypes,
            Set<String> headers,
            Gate gate) {

        /** The methods it takes, in upper case. */
        List<String> methods() {
            return HttpInlets.methods(inlet()).stream()
                    .map(method -> method.toUpperCase(Locale.ROOT))
                    .toList();
        }

        Inlet inlet() {
            return context.inlet();
        }

        /** @param header the value of Content-Type, or null */
        boolean takes(String header) {
            if (contentTypes.isEmpty()) {
                Format format = inlet().contents().format();
                return format == null || format.takes(header);
            }
            String type = header == null ? "" : header.split(";", 2)[0].strip().toLowerCase(Locale.ROOT);
            return contentTypes.contains(type);
        }
    }

    /**
     * The inlet a request is for.
     *
     * @param named the texts of the named segments of its path
     */
    record Found(Door door, Map<String, String> named) {

        /** Without the one that the sender is checked by. */
        Map<String, String> named(HttpCredential credential) {
            if (!(credential instanceof HttpCredential.PathPart)) {
                return named;
            }
            Map<String, String> rest = new LinkedHashMap<>(named);
            rest.remove(InletPath.SECRET);
            return rest;
        }

        /** The path of a request as it may be kept. */
        String address(String path) {
            String secret = named.get(InletPath.SECRET);
            return secret == null || secret.isEmpty() ? path : path.replace(secret, MaskedQuery.MASK);
        }
    }

    /** By the shape of their paths, so that an exact path is found at once. */
    private final Map<String, Door> doors = new ConcurrentHashMap<>();

    /** From now on the inlet takes what comes to its path, until it is closed. */
    Source open(SourceContext context) {
        Inlet inlet = context.inlet();
        Map<String, Object> at = inlet.at();
        InletPath path = InletPath.of((String) at.get("path"));
        Door door = new Door(
                context,
                path,
                (String) at.get("credential"),
                at.get("maxBytes") instanceof Number number ? number.intValue() : USUAL_LIMIT,
                lower(at.get("contentTypes")),
                Set.copyOf(lower(at.get("headers"))),
                gate(inlet));
        doors.put(path.shape(), door);
        if (inlet.closed()) {
            context.connection().become(State.CLOSED, "requests are answered 503");
        } else {
            context.connection()
                    .become(State.CONNECTED, "takes requests at " + HttpInletServlet.ROOT + "/" + at.get("path"));
        }
        return () -> doors.remove(path.shape(), door);
    }

    /** In lower case. */
    static List<String> methods(Inlet inlet) {
        List<String> methods = lower(inlet.at().get("methods"));
        return methods.isEmpty() ? List.of("post", "put") : methods;
    }

    private static List<String> lower(Object names) {
        return names instanceof List<?> list
                ? list.stream()
                        .map(name -> name.toString().toLowerCase(Locale.ROOT))
                        .toList()
                : List.of();
    }

    /** The one there was, if its bounds are the same: what is under way counts on. */
    private Gate gate(Inlet inlet) {
        double rate = inlet.at().get("perSecond") instanceof Number number ? number.doubleValue() : 0;
        int most = inlet.at().get("atOnce") instanceof Number number ? number.intValue() : 0;
        return doors.values().stream()
                .filter(door -> door.inlet().name().equals(inlet.name()) && door.gate.isLike(rate, most))
                .map(Door::gate)
                .findFirst()
                .orElseGet(() -> new Gate(rate, most, System::nanoTime));
    }

    /** Where an inlet is, and by which credential it checks its senders. */
    record At(String path, String inlet, String credential) {}

    Stream<At> paths() {
        return doors.values().stream()
                .map(door -> new At(
                        String.join("/", door.path.segments()), door.inlet().name(), door.credential));
    }

    /** The name of the inlet that is open at a path, as a setup writes it. */
    Optional<String> holder(String path) {
        return Optional.ofNullable(doors.get(InletPath.of(path).shape()))
                .map(door -> door.inlet().name());
    }

    /** @param path of the request below the inlets' root, decoded */
    Optional<Found> at(String path) {
        Door exact = doors.get(path);
        if (exact != null && exact.path.isExact()) {
            return Optional.of(new Found(exact, Map.of()));
        }
        return doors.values().stream()
                .filter(door -> !door.path.isExact())
                .sorted(Comparator.comparing(Door::path, InletPath.MOST_EXACT_FIRST))
                .flatMap(door -> door.path.match(path).map(named -> new Found(door, named)).stream())
                .findFirst();
    }
}
