package org.holtra.core.reading;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import org.holtra.core.message.Transport;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Inlet;
import tools.jackson.databind.json.JsonMapper;

/**
 * Takes an arrival apart that holds several messages. Each part is an arrival of its own: its body is the item as JSON, its
 * id follows from the whole's, so that taking it apart again gives the same, and what stands beside the list goes with it.
 */
public final class ArrivalParts {

    /** An arrival with more is not taken apart. */
    public static final int MOST = 10_000;

    /** In bytes of JSON. What stands beside the list goes with each part, and more would be kept too often. */
    static final int LARGEST_REST = 16_384;

    private static final Pattern PATH = Pattern.compile("data((?:\\.[A-Za-z_][A-Za-z0-9_]*)*)");
    private static final JsonMapper JSON = JsonMapper.shared();

    private ArrivalParts() {}

    /** Whether this is a whole that its inlet takes apart. */
    public static boolean has(Arrival arrival, Inlet inlet) {
        return inlet.contents().parts() != null && !arrival.isPart();
    }

    /**
     * In the order of the list.
     *
     * @throws UnreadableContent if the content cannot be read, or there is no list in it
     */
    public static List<Arrival> of(Arrival whole, Inlet inlet) throws UnreadableContent {
        Object content = Reader.content(whole, inlet);
        Expression expression = inlet.contents().parts();
        List<?> items = items(expression, new Scope(content, Meta.of(whole), Map.of()));
        Transport transport = whole.transport().with("whole", rest(content, expression));
        List<Arrival> parts = new ArrayList<>(items.size());
        for (int number = 0; number < items.size(); number++) {
            parts.add(new Arrival(
                    MessageId.derived(
                            whole.received(), List.of(whole.id().toString(), "part", Integer.toString(number))),
                    whole.inlet(),
                    transport.with("part", (double) number),
                    "application/json",
                    JSON.writeValueAsBytes(Plain.of(items.get(number))),
                    null,
                    whole.id()));
        }
        return parts;
    }

    private static List<?> items(Expression expression, Scope scope) throws UnreadableContent {
        Object found = switch (expression.evaluate(scope)) {
            case Outcome.Value(Object value) -> value;
            case Outcome.None(String reason, boolean missing) ->
                throw new UnreadableContent("its parts could not be told: " + reason);
        };
        if (!(found instanceof List<?> items)) {
            throw new UnreadableContent("its parts are " + Plain.brief(found) + ", and a list was expected");
        }
        if (items.size() > MOST) {
            throw new UnreadableContent("it has " + items.size() + " parts, more than the " + MOST + " that are taken");
        }
        return items;
    }

    /** The content without the list; empty where it is too large, or the list is made of more than one place of it. */
    private static Object rest(Object content, Expression expression) {
        Matcher path = PATH.matcher(expression.source().strip());
        if (!path.matches() || path.group(1).isEmpty()) {
            return Map.of();
        }
        Object rest =
                Plain.of(without(content, List.of(path.group(1).substring(1).split("\\."))));
        return JSON.writeValueAsBytes(rest).length > LARGEST_REST ? Map.of() : rest;
    }

    private static Object without(Object content, List<String> path) {
        if (!(content instanceof Map<?, ?> fields)) {
            return content;
        }
        Map<Object, Object> rest = new LinkedHashMap<>(fields);
        if (path.size() == 1) {
            rest.remove(path.getFirst());
        } else {
            rest.computeIfPresent(path.getFirst(), (name, inner) -> without(inner, path.subList(1, path.size())));
        }
        return rest;
    }
}
