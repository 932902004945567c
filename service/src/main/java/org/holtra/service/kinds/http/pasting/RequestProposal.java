package org.holtra.service.kinds.http.pasting;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.holtra.core.reading.ChannelFields;
import org.holtra.service.dispatch.OutletProposal;
import tools.jackson.databind.json.JsonMapper;

/**
 * What a pasted example comes to: an outlet, its credential and a skeleton shape, apart.
 *
 * @param type what it was taken for: {@code curl}, {@code request}, {@code url} or {@code json}
 * @param to for an outlet of kind http; without a url if the example had none
 * @param credential null if the example shows none
 * @param shape the skeleton: query, headers, format and body of the example
 * @param slips what is likely wrong in it
 */
public record RequestProposal(
        String type,
        Map<String, Object> to,
        Login credential,
        Map<String, Object> shape,
        List<OutletProposal.Slip> slips) {

    private static final int MOST_CONSTANTS = 50;
    private static final Set<String> METHODS = Set.of("PUT", "PATCH");

    /**
     * A credential that stood in the example.
     *
     * @param form {@code bearer}, {@code basic}, {@code header} or {@code query}
     * @param name of the header or parameter, or the user
     * @param secret empty where the example has only a placeholder for it
     */
    public record Login(String form, String name, String secret) {}

    /** The same as the console takes it: the outlet to begin with, and what was found, for people. */
    public OutletProposal outlet() {
        Map<String, Object> content = new LinkedHashMap<>(to);
        if (!METHODS.contains(String.valueOf(to.get("method")))) {
            content.remove("method");
        }
        Map<String, Object> body = new LinkedHashMap<>(shape);
        for (String beside : List.of("query", "headers")) {
            Object found = body.remove(beside);
            if (found != null) {
                content.put(beside, found);
            }
        }
        return new OutletProposal(
                Map.of("kind", "http", "to", content),
                credential == null ? null : new OutletProposal.Login(credential.form(), fields(credential)),
                body,
                found(),
                slips);
    }

    private static Map<String, String> fields(Login login) {
        return switch (login.form()) {
            case "bearer" -> Map.of("token", login.secret());
            case "basic" -> Map.of("user", login.name(), "password", login.secret());
            default -> Map.of("name", login.name(), "value", login.secret());
        };
    }

    private List<OutletProposal.Found> found() {
        List<OutletProposal.Found> found = new ArrayList<>();
        if (to.get("url") != null) {
            found.add(
                    new OutletProposal.Found("address", (to.getOrDefault("method", "") + " " + to.get("url")).strip()));
        }
        if (credential != null) {
            String name = credential.name().isEmpty() ? "" : " " + credential.name();
            String secret = credential.secret().isEmpty() ? ", secret to be entered" : ", secret found";
            found.add(new OutletProposal.Found("credential", credential.form() + name + secret));
        }
        for (String beside : List.of("query", "headers")) {
            if (shape.get(beside) instanceof Map<?, ?> pairs) {
                found.add(new OutletProposal.Found(beside, lines(pairs)));
            }
        }
        Object body = shape.get("body");
        if (body != null) {
            String format = shape.get("format") == null ? "" : ", " + shape.get("format");
            found.add(new OutletProposal.Found("body" + format, body instanceof String text ? text : pretty(body)));
            constants(body).ifPresent(found::add);
        }
        return found;
    }

    /** An example's own values would go out with every message. */
    private static Optional<OutletProposal.Found> constants(Object body) {
        Set<String> places = body instanceof Map<?, ?> || body instanceof List<?>
                ? ChannelFields.places(body, MOST_CONSTANTS).keySet()
                : Set.of();
        if (places.isEmpty()) {
            return Optional.empty();
        }
        String which = String.join(", ", places);
        return Optional.of(new OutletProposal.Found(
                "constants",
                (places.size() == 1 ? "1 field is" : places.size() + " fields are") + " the same in every message: "
                        + which + ". Put an expression such as ${data.temperature} where the value should vary."));
    }

    private static String lines(Map<?, ?> pairs) {
        List<String> lines = new ArrayList<>();
        pairs.forEach((name, value) -> lines.add(name + ": " + value));
        return String.join("\n", lines);
    }

    private static String pretty(Object body) {
        return JsonMapper.shared().writerWithDefaultPrettyPrinter().writeValueAsString(body);
    }
}
