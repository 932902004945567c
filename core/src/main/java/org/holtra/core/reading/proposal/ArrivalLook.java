package org.holtra.core.reading.proposal;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.holtra.core.expression.Plain;
import org.holtra.core.message.Arrival;
import org.holtra.core.reading.ChannelFields;
import org.holtra.core.reading.content.Format;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.reading.proposal.ReadingProposal.Choice;

/**
 * Looks at an arrival and proposes how to read it: which list holds messages, where the device, the time, a payload and a
 * counter stand. It goes by usual names and by how values look; a person decides.
 */
public final class ArrivalLook {

    private static final int MOST_FIELDS = 200;
    private static final int MOST_CHOICES = 8;
    private static final Pattern IDENTIFIER = Pattern.compile("[A-Za-z_][A-Za-z0-9_]*");

    private static final List<String> DEVICE_NAMES = List.of(
            "deveui",
            "deviceeui",
            "deviceid",
            "devicekey",
            "device",
            "devid",
            "eui",
            "serial",
            "serialnumber",
            "sn",
            "imei",
            "mac",
            "probe",
            "meterid",
            "meter",
            "sensorid",
            "sensor",
            "stationid",
            "station",
            "nodeid",
            "node",
            "clientid",
            "thing",
            "source",
            "id",
            "name",
            "key");

    /** Names under which ids stand that are of the message or the gateway, not of the device. */
    private static final Set<String> OTHER_IDS =
            Set.of("messageid", "msgid", "eventid", "requestid", "uuid", "gatewayid", "gateway", "correlationid");

    private static final Set<String> SEQUENCE_NAMES = Set.of(
            "fcnt", "counter", "framecounter", "framecount", "seq", "sequence", "sequencenumber", "seqno", "msgno");

    private ArrivalLook() {}

    /** @param isOne whether it is one message, whatever lists are in it */
    public static ReadingProposal at(Arrival arrival, boolean isOne) {
        Format told = Format.ofContentType(arrival.contentType());
        Optional<Read> read = read(arrival.body(), told);
        if (read.isEmpty()) {
            return ReadingProposal.none("its content is neither JSON, a form, CSV, XML nor text with fields");
        }
        Object content = read.get().content;
        List<Choice> parts = isOne ? List.of() : parts(content);
        Object item = parts.isEmpty() ? content : firstItem(content, parts.getFirst());
        Map<String, Object> places = ChannelFields.places(item, MOST_FIELDS);
        Map<String, Object> around = new LinkedHashMap<>();
        if (item != content) {
            ChannelFields.places(content, MOST_FIELDS).forEach((place, value) -> {
                if (!place.startsWith(listPlace(parts.getFirst()))) {
                    around.put(place, value);
                }
            });
        }
        List<Place> all = new ArrayList<>();
        places.forEach((place, value) -> all.add(new Place("data", place, value)));
        around.forEach((place, value) -> all.add(new Place("meta.whole", place, value)));
        named(arrival).forEach((place, value) -> all.add(new Place("meta.path", place, value)));
        return new ReadingProposal(
                read.get().format == told ? null : read.get().format.name().toLowerCase(Locale.ROOT),
                parts,
                devices(all),
                chosen(all.stream()
                        .flatMap(place -> TimeLook.at(place.value)
                                .map(time -> new Ranked(
                                        place.choice(
                                                time.why(),
                                                time.form() == null ? Map.of() : Map.of("timeForm", time.form())),
                                        TimeLook.rank(place.last())))
                                .stream())),
                payloads(all),
                chosen(all.stream()
                        .filter(place -> SEQUENCE_NAMES.contains(place.last()) && whole(place.value))
                        .map(place -> new Ranked(place.choice("counts messages, by its name", Map.of()), 0))),
                places,
                null);
    }

    private record Read(Format format, Object content) {}

    /** As its content type says, or as it looks. */
    private static Optional<Read> read(byte[] body, Format told) {
        Optional<Read> asTold = parsed(body, told);
        if (asTold.isPresent() && told != Format.TEXT && told != Format.BYTES) {
            return asTold;
        }
        String text = new String(body, StandardCharsets.UTF_8).strip();
        Stream<Format> looks = Arrays.stream(Format.values()).filter(format -> looksLike(format, text));
        return looks.map(format -> parsed(body, format))
                .flatMap(Optional::stream)
                .findFirst()
                .or(() -> asTold.filter(
                        read -> !ChannelFields.places(read.content, 1).isEmpty()))
                .or(() -> isText(body) ? parsed(body, Format.TEXT) : Optional.empty());
    }

    private static boolean looksLike(Format format, String text) {
        return switch (format) {
            case JSON, NDJSON -> text.startsWith("{") || text.startsWith("[");
            case XML -> text.startsWith("<");
            case FORM -> text.matches("[^\\s=&]+=[^\\s&]*(&[^\\s=&]+=[^\\s&]*)*");
            case CSV -> text.lines().count() > 1 && text.lines().allMatch(line -> line.matches(".*[,;\t].*"));
            case CBOR, TEXT, BYTES -> false;
        };
    }

    private static boolean isText(byte[] body) {
        for (byte one : body) {
            if (one >= 0 && one < ' ' && one != '\n' && one != '\r' && one != '\t') {
                return false;
            }
        }
        return body.length > 0;
    }

    private static Optional<Read> parsed(byte[] body, Format format) {
        try {
            Object content = Plain.of(format.parse(body));
            return content instanceof Map<?, ?> || content instanceof List<?> || format == Format.TEXT
                    ? Optional.of(new Read(format, content))
                    : Optional.empty();
        } catch (UnreadableContent e) {
            return Optional.empty(); // it is something else
        }
    }

    /** A value, where it stands, and in which variable. */
    private record Place(String variable, String path, Object value) {

        /** The last name of the path, in lower case without separators. */
        String last() {
            String[] names = path.split("\\.");
            String last = "";
            for (String name : names) {
                last = name.matches("[0-9]+") ? last : name;
            }
            return last.toLowerCase(Locale.ROOT).replaceAll("[^a-z0-9]", "");
        }

        Choice choice(String why, Map<String, String> with) {
            return new Choice(expression(variable, path), value, why, with);
        }
    }

    private record Ranked(Choice choice, int rank) {}

    private static List<Choice> chosen(Stream<Ranked> all) {
        return all.sorted(Comparator.comparingInt(Ranked::rank))
                .map(Ranked::choice)
                .limit(MOST_CHOICES)
                .toList();
    }

    static String expression(String variable, String path) {
        StringBuilder text = new StringBuilder(variable);
        for (String name : path.split("\\.")) {
            if (name.matches("[0-9]+")) {
                text.append('[').append(name).append(']');
            } else if (IDENTIFIER.matcher(name).matches()) {
                text.append('.').append(name);
            } else {
                text.append("[\"")
                        .append(name.replace("\\", "\\\\").replace("\"", "\\\""))
                        .append("\"]");
            }
        }
        return text.toString();
    }

    private static Map<String, Object> named(Arrival arrival) {
        Map<String, Object> named = new LinkedHashMap<>();
        if (arrival.transport().fields().get("path") instanceof Map<?, ?> path) {
            path.forEach((name, value) -> named.put(name.toString(), value));
        }
        return named;
    }

    private static List<Choice> devices(List<Place> all) {
        return chosen(all.stream()
                .filter(place -> place.value instanceof String || whole(place.value))
                .filter(place -> !String.valueOf(place.value).isBlank()
                        && String.valueOf(place.value).length() <= 64)
                .flatMap(place ->
                        deviceRank(place).map(rank -> new Ranked(place.choice(why(place), Map.of()), rank)).stream()));
    }

    private static Optional<Integer> deviceRank(Place place) {
        String name = place.last();
        int byName = DEVICE_NAMES.indexOf(name);
        if (OTHER_IDS.contains(name) || TimeLook.at(place.value).isPresent() && byName < 0) {
            return Optional.empty();
        }
        if (place.variable.equals("meta.path")) {
            return Optional.of(byName < 0 ? 1 : 0);
        }
        boolean looks = String.valueOf(place.value).matches("(?i)[0-9a-f]{16}|([0-9a-f]{2}[:-]){5,7}[0-9a-f]{2}");
        if (byName < 0 && !looks) {
            return Optional.empty();
        }
        // What stands beside a list is of the gateway rather than of one of its devices.
        return Optional.of((byName < 0 ? DEVICE_NAMES.size() : byName)
                - (looks ? 10 : 0)
                + (place.variable.equals("meta.whole") ? 100 : 0));
    }

    private static String why(Place place) {
        if (place.variable.equals("meta.path")) {
            return "a part of the address";
        }
        return DEVICE_NAMES.contains(place.last()) ? "by its name" : "looks like a hexadecimal id";
    }

    private static List<Choice> payloads(List<Place> all) {
        Optional<Place> port = all.stream()
                .filter(place -> Set.of("fport", "port").contains(place.last()) && whole(place.value))
                .findFirst();
        return chosen(all.stream()
                .flatMap(place -> PayloadLook.encoding(place.last(), place.value)
                        .map(encoding -> {
                            Map<String, String> with = new LinkedHashMap<>(Map.of("encoding", encoding));
                            port.ifPresent(one -> with.put("port", expression(one.variable, one.path)));
                            return new Ranked(place.choice("looks like " + encoding, with), 0);
                        })
                        .stream()));
    }

    private static boolean whole(Object value) {
        return value instanceof Number number && number.doubleValue() == Math.rint(number.doubleValue());
    }

    /** Lists of objects, which hold the most that was sent. */
    private static List<Choice> parts(Object content) {
        if (content instanceof List<?> list) {
            return areMessages(list) ? List.of(choice("data", list)) : List.of();
        }
        List<Choice> parts = new ArrayList<>();
        addLists("", content, parts, 3);
        return parts;
    }

    private static void addLists(String at, Object value, List<Choice> parts, int deeper) {
        if (value instanceof Map<?, ?> map && deeper > 0) {
            map.forEach((name, inner) -> {
                String path = at.isEmpty() ? name.toString() : at + "." + name;
                if (inner instanceof List<?> list && areMessages(list)) {
                    parts.add(choice(expression("data", path), list));
                } else {
                    addLists(path, inner, parts, deeper - 1);
                }
            });
        }
    }

    /** Several objects, each with a device or a time of its own. What tells of gateways and of one message does not. */
    private static boolean areMessages(List<?> list) {
        return list.size() > 1
                && list.stream()
                        .allMatch(item -> item instanceof Map<?, ?> map
                                && ChannelFields.places(map, MOST_FIELDS).entrySet().stream()
                                        .map(entry -> new Place("data", entry.getKey(), entry.getValue()))
                                        .anyMatch(place -> deviceRank(place).isPresent()
                                                || TimeLook.at(place.value).isPresent()));
    }

    private static Choice choice(String expression, List<?> list) {
        return new Choice(expression, list.size() + " items", "a list of objects", Map.of());
    }

    private static String listPlace(Choice parts) {
        return parts.expression().replaceFirst("^data\\.?", "").replaceAll("\\[\"|\"\\]", ".") + ".";
    }

    private static Object firstItem(Object content, Choice parts) {
        String place = parts.expression().equals("data") ? "0" : listPlace(parts) + "0";
        return content instanceof List<?> list ? list.getFirst() : item(content, List.of(place.split("\\.")));
    }

    private static Object item(Object at, List<String> path) {
        if (path.isEmpty()) {
            return at;
        }
        Object inner = switch (at) {
            case Map<?, ?> map -> map.get(path.getFirst());
            case List<?> list -> list.get(Integer.parseInt(path.getFirst()));
            default -> throw new IllegalStateException("the list was found there before");
        };
        return item(inner, path.subList(1, path.size()));
    }
}
