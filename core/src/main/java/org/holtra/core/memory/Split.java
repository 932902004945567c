package org.holtra.core.memory;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.reading.time.EventTime;

/**
 * One message becomes many: one for each item of a list in it.
 *
 * @param each gives the list
 * @param time gives the event time of an item, which it sees as {@code item}; null for that of the message
 */
public record Split(Expression each, Expression time) {

    /** The variable by which expressions see an item. */
    public static final String ITEM = "item";

    /** More would make one message a flood. */
    private static final int MOST = 1_000;

    /** @param data plain values; what is no object stands in a field {@code value} */
    public record Item(Object data, Instant at) {}

    /**
     * What a message is split into.
     *
     * @param whyNot why it does not, in words; null if it does
     */
    public record Items(List<Item> items, String whyNot) {

        public static Items none(String why) {
            return new Items(List.of(), why);
        }
    }

    /** @param at the message's event time */
    public Items of(Scope scope, Instant at) {
        if (!(each.evaluate(scope) instanceof Outcome.Value(Object value)) || !(value instanceof List<?> list)) {
            return Items.none("`" + each.source() + "` gives no list");
        }
        if (list.isEmpty()) {
            return Items.none("`" + each.source() + "` gives an empty list");
        }
        if (list.size() > MOST) {
            return Items.none(
                    "`" + each.source() + "` gives a list of " + list.size() + ", and at most " + MOST + " are split");
        }
        List<Item> items = new ArrayList<>(list.size());
        for (Object item : list) {
            Object plain = Plain.of(item);
            items.add(new Item(plain instanceof Map<?, ?> ? plain : Map.of("value", plain), timeOf(scope, item, at)));
        }
        return new Items(items, null);
    }

    /** Its expressions as they are written. */
    List<String> sources() {
        return time == null ? List.of(each.source()) : List.of(each.source(), time.source());
    }

    private Instant timeOf(Scope scope, Object item, Instant at) {
        return time != null && time.evaluate(scope.with(ITEM, item)) instanceof Outcome.Value(Object value)
                ? EventTime.of(Plain.of(value)).orElse(at)
                : at;
    }
}
