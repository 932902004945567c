package org.holtra.core.reading;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.expression.Plain;
import org.holtra.core.setup.Channel;

/**
 * The fields that are made of a device's channels. What was sent stays beside them, and is never written over by a channel of
 * another name.
 */
public final class ChannelFields {

    /** What a list is called beside the fields that are made of it. */
    private static final String LIST = "items";

    /**
     * What became of the data.
     *
     * @param notes what could not be made, a phrase each
     */
    public record Made(Object data, List<String> notes) {}

    private ChannelFields() {}

    public static Made of(Object data, List<Channel> channels) {
        if (channels.isEmpty()) {
            return new Made(data, List.of());
        }
        Map<Object, Object> fields = new LinkedHashMap<>();
        if (data instanceof Map<?, ?> sent) {
            fields.putAll(sent);
        } else {
            fields.put(LIST, data);
        }
        List<String> notes = new ArrayList<>();
        for (Channel channel : channels) {
            Optional<Object> sent = find(data, channel.from());
            if (sent.isPresent()) {
                make(channel, sent.get(), fields, notes);
            }
        }
        return new Made(fields, notes);
    }

    private static void make(Channel channel, Object sent, Map<Object, Object> fields, List<String> notes) {
        Object value = value(channel, sent);
        if (value == null) {
            notes.add("channel " + channel.from() + " is " + Plain.brief(sent) + ", and " + channel.name()
                    + " wants a number");
            return;
        }
        if (channel.point() == null) {
            put(channel, value, fields, notes);
            return;
        }
        Object there = fields.get(channel.object());
        if (there != null && !(there instanceof Map<?, ?>)) {
            notes.add(taken(channel));
            return;
        }
        Map<Object, Object> point = new LinkedHashMap<>(there instanceof Map<?, ?> map ? map : Map.of());
        put(channel, value, point, notes);
        fields.put(channel.object(), point);
    }

    private static void put(Channel channel, Object value, Map<Object, Object> fields, List<String> notes) {
        Object there = fields.get(channel.field());
        if (there == null || there.equals(value) || channel.from().equals(channel.name())) {
            fields.put(channel.field(), value);
        } else {
            notes.add(taken(channel));
        }
    }

    private static String taken(Channel channel) {
        return "channel " + channel.from() + " was not made " + channel.name()
                + ": a field of that name was sent, with another value";
    }

    /** Null if it cannot be told. Text that is a number is that number. */
    private static Object value(Channel channel, Object sent) {
        Object value = sent instanceof String text ? number(text) : sent;
        if (value instanceof Number number) {
            return Double.isFinite(number.doubleValue()) ? scaled(number.doubleValue(), channel.factor()) : null;
        }
        boolean asItIs = channel.factor() == null && channel.unit() == null;
        return asItIs && (value instanceof String || value instanceof Boolean) ? value : null;
    }

    private static Object number(String text) {
        try {
            return text.matches("[+-]?[0-9].*") ? Double.valueOf(text.strip()) : text;
        } catch (NumberFormatException e) {
            return text;
        }
    }

    /** As people reckon, so that 3 times 0.1 is 0.3. */
    private static double scaled(double value, Double factor) {
        return factor == null
                ? value
                : BigDecimal.valueOf(value).multiply(BigDecimal.valueOf(factor)).doubleValue();
    }

    /** What stands at a place; a name with dots in it is found, too. */
    public static Optional<Object> find(Object data, String path) {
        if (data instanceof Map<?, ?> map) {
            if (map.get(path) != null) {
                return Optional.of(map.get(path)).map(Plain::of);
            }
            int dot = path.indexOf('.');
            return dot < 0 ? Optional.empty() : find(map.get(path.substring(0, dot)), path.substring(dot + 1));
        }
        if (data instanceof List<?> list) {
            int dot = path.indexOf('.');
            String place = dot < 0 ? path : path.substring(0, dot);
            if (!place.matches("[0-9]{1,5}") || Integer.parseInt(place) >= list.size()) {
                return Optional.empty();
            }
            Object item = list.get(Integer.parseInt(place));
            return dot < 0 ? Optional.ofNullable(Plain.of(item)) : find(item, path.substring(dot + 1));
        }
        return Optional.empty();
    }

    /**
     * What can be made fields: each number, text, and true or false in what was sent, by its place, also in lists.
     *
     * @param most so many at most
     */
    public static Map<String, Object> places(Object data, int most) {
        Map<String, Object> places = new LinkedHashMap<>();
        add("", Plain.of(data), places, most);
        return places;
    }

    private static void add(String at, Object value, Map<String, Object> places, int most) {
        if (places.size() >= most) {
            return;
        }
        switch (value) {
            case Map<?, ?> map ->
                map.forEach(
                        (name, inner) -> add(at.isEmpty() ? name.toString() : at + "." + name, inner, places, most));
            case List<?> list -> {
                for (int i = 0; i < list.size(); i++) {
                    add(at.isEmpty() ? Integer.toString(i) : at + "." + i, list.get(i), places, most);
                }
            }
            case Number number -> places.put(at, number);
            case String text -> places.put(at, text);
            case Boolean bool -> places.put(at, bool);
            case null, default -> {}
        }
    }
}
