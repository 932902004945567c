package org.holtra.service.devices;

import java.time.DateTimeException;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.holtra.core.expression.Plain;
import org.holtra.core.setup.compile.ChannelCheck;
import org.holtra.core.text.DurationText;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.MappingIterator;
import tools.jackson.dataformat.csv.CsvMapper;
import tools.jackson.dataformat.csv.CsvReadFeature;
import tools.jackson.dataformat.csv.CsvSchema;

/**
 * What is known of devices as a table in CSV (RFC 4180): the columns {@code key}, {@code model}, {@code zone},
 * {@code installed}, {@code silentAfter}, one {@code fact:NAME} a fact, and {@code point:POINT} and {@code point:POINT:NAME}
 * for a point's reference and facts. A column that is not there leaves what it would say as it is; an empty cell takes
 * it away.
 */
public final class DeviceTable {

    /** @param line in the table, from 1 */
    public record Misfit(int line, String column, String what) {}

    public record Row(int line, String key, Device.Knowledge knowledge) {}

    public record Table(List<Row> rows, List<Misfit> misfits) {}

    private static final CsvMapper CSV = CsvMapper.builder()
            .enable(CsvReadFeature.TRIM_SPACES, CsvReadFeature.SKIP_EMPTY_LINES, CsvReadFeature.WRAP_AS_ARRAY)
            .build();
    private static final int MOST_FACTS = 500;
    private static final int LONGEST_NAME = 200;
    private static final int LONGEST_FACT = 10_000;
    private static final Set<String> PLAIN = Set.of("key", "model", "zone", "installed", "silentAfter");
    private static final String FACT = "fact:";
    private static final String POINT = "point:";

    private DeviceTable() {}

    public static String write(List<Device> devices) {
        Set<String> facts = new LinkedHashSet<>();
        Set<String> points = new LinkedHashSet<>();
        for (Device device : devices) {
            device.knowledge().facts().keySet().forEach(name -> facts.add(FACT + name));
            device.knowledge().points().forEach((name, point) -> {
                points.add(POINT + name);
                point.facts().keySet().forEach(fact -> points.add(POINT + name + ":" + fact));
            });
        }
        CsvSchema.Builder columns = CsvSchema.builder()
                .setUseHeader(true)
                .addColumn("key")
                .addColumn("model")
                .addColumn("zone")
                .addColumn("installed")
                .addColumn("silentAfter");
        facts.forEach(columns::addColumn);
        points.forEach(columns::addColumn);
        return CSV.writer(columns.build())
                .writeValueAsString(devices.stream().map(DeviceTable::cells).toList());
    }

    private static Map<String, Object> cells(Device device) {
        Device.Knowledge known = device.knowledge();
        Map<String, Object> cells = new LinkedHashMap<>();
        cells.put("key", SpreadsheetCell.of(device.key()));
        cells.put("model", SpreadsheetCell.of(known.model()));
        cells.put("zone", known.zone());
        cells.put(
                "installed",
                known.installed() == null ? null : known.installed().toString());
        cells.put("silentAfter", known.silentAfter());
        known.facts().forEach((name, value) -> cells.put(FACT + name, SpreadsheetCell.of(Plain.text(value))));
        known.points().forEach((name, point) -> {
            cells.put(POINT + name, SpreadsheetCell.of(point.reference()));
            point.facts()
                    .forEach((fact, value) ->
                            cells.put(POINT + name + ":" + fact, SpreadsheetCell.of(Plain.text(value))));
        });
        return cells;
    }

    /** @param registry what is known so far */
    public static Table read(String csv, DeviceRegistry registry) {
        List<Row> rows = new ArrayList<>();
        List<Misfit> misfits = new ArrayList<>();
        try (MappingIterator<String[]> lines = CSV.readerFor(String[].class)
                .with(CsvSchema.emptySchema().withColumnSeparator(separator(csv)))
                .readValues(csv)) {
            if (!lines.hasNext()) {
                return new Table(rows, List.of(new Misfit(1, "", "the table is empty")));
            }
            String[] names = lines.next();
            headings(names, misfits);
            Set<String> seen = new LinkedHashSet<>();
            for (int line = 2; lines.hasNext(); line++) {
                row(names, lines.next(), line, registry, misfits).ifPresent(row -> {
                    if (seen.add(row.key)) {
                        rows.add(row);
                    } else {
                        misfits.add(new Misfit(row.line, "key", "`" + row.key + "` stands in the table twice"));
                    }
                });
            }
        } catch (JacksonException e) {
            misfits.add(new Misfit(1, "", "not a table in CSV: " + e.getOriginalMessage()));
        }
        return new Table(rows, misfits);
    }

    private static char separator(String csv) {
        String first = csv.lines().findFirst().orElse("");
        return first.contains(";") && !first.contains(",") ? ';' : first.contains("\t") ? '\t' : ',';
    }

    private static void headings(String[] names, List<Misfit> misfits) {
        if (!List.of(names).contains("key")) {
            misfits.add(new Misfit(1, "key", "the first line names the columns, and one of them must be key"));
        }
        for (String name : names) {
            if (!PLAIN.contains(name) && !name.startsWith(FACT) && !name.startsWith(POINT)) {
                misfits.add(new Misfit(
                        1,
                        name,
                        "no column of this name is known; there are key, model, zone, installed, silentAfter, fact:NAME, "
                                + "point:POINT and point:POINT:NAME"));
            }
        }
    }

    private static Optional<Row> row(
            String[] names, String[] cells, int line, DeviceRegistry registry, List<Misfit> misfits) {
        int before = misfits.size();
        Map<String, String> row = new LinkedHashMap<>();
        for (int i = 0; i < Math.min(names.length, cells.length); i++) {
            row.put(names[i], SpreadsheetCell.text(cells[i]));
        }
        String key = row.getOrDefault("key", "");
        if (key.isBlank() || key.length() > 200) {
            misfits.add(new Misfit(line, "key", "a device's key is a text of 1 to 200 characters"));
            return Optional.empty();
        }
        Device.Knowledge known = registry.find(key).map(Device::knowledge).orElse(Device.Knowledge.NOTHING);
        Map<String, Object> facts = new LinkedHashMap<>(known.facts());
        Map<String, Device.Point> points = new LinkedHashMap<>(known.points());
        row.forEach((name, cell) -> {
            if (name.startsWith(FACT)) {
                put(facts, name.substring(FACT.length()), cell);
            } else if (name.startsWith(POINT)) {
                point(points, name.substring(POINT.length()), cell);
            }
        });
        Device.Knowledge next = new Device.Knowledge(
                text(row, "model", known.model()),
                facts,
                points,
                text(row, "zone", known.zone()),
                installed(row, known.installed(), line, misfits),
                text(row, "silentAfter", known.silentAfter()),
                known.channels());
        check(next).ifPresent(misfit -> misfits.add(new Misfit(line, misfit.column, misfit.what)));
        return misfits.size() == before ? Optional.of(new Row(line, key, next)) : Optional.empty();
    }

    private static Instant installed(Map<String, String> row, Instant before, int line, List<Misfit> misfits) {
        String text = row.get("installed");
        if (text == null) {
            return before;
        }
        try {
            return text.isBlank() ? null : Instant.parse(text.length() == 10 ? text + "T00:00:00Z" : text);
        } catch (DateTimeException e) {
            misfits.add(new Misfit(line, "installed", "`" + text + "` is no date such as 2026-03-01, nor an instant"));
            return before;
        }
    }

    private static void point(Map<String, Device.Point> points, String name, String cell) {
        String[] parts = name.split(":", 2);
        Device.Point before = points.getOrDefault(parts[0], new Device.Point(null, Map.of()));
        if (parts.length == 1) {
            points.put(parts[0], new Device.Point(cell.isBlank() ? null : cell, before.facts()));
        } else {
            Map<String, Object> facts = new LinkedHashMap<>(before.facts());
            put(facts, parts[1], cell);
            points.put(parts[0], new Device.Point(before.reference(), facts));
        }
        Device.Point now = points.get(parts[0]);
        if (now.reference() == null && now.facts().isEmpty()) {
            points.remove(parts[0]);
        }
    }

    private static void put(Map<String, Object> facts, String name, String cell) {
        if (cell.isBlank()) {
            facts.remove(name);
        } else {
            facts.put(name, value(cell));
        }
    }

    /** Numbers, true and false keep their type; what has leading zeros is text, for it is part of an identifier. */
    static Object value(String cell) {
        if (cell.equals("true") || cell.equals("false")) {
            return Boolean.valueOf(cell);
        }
        if (cell.matches("-?(0|[1-9]\\d{0,14})")) {
            return Long.valueOf(cell);
        }
        return cell.matches("-?(0|[1-9]\\d{0,14})\\.\\d{1,10}") ? (Object) Double.valueOf(cell) : cell;
    }

    private static String text(Map<String, String> row, String name, String before) {
        String cell = row.get(name);
        return cell == null ? before : cell.isBlank() ? null : cell;
    }

    /** What is wrong with what somebody says of a device; the line is 0. */
    public static Optional<Misfit> check(Device.Knowledge knowledge) {
        Optional<Misfit> large = large(knowledge);
        if (large.isPresent()) {
            return large;
        }
        if (knowledge.zone() != null
                && !ZoneId.getAvailableZoneIds().contains(knowledge.zone())
                && !offset(knowledge.zone())) {
            return Optional.of(new Misfit(0, "zone", "there is no time zone `" + knowledge.zone() + "`"));
        }
        if (knowledge.silentAfter() != null && !knowledge.silentAfter().matches(DurationText.PATTERN)) {
            return Optional.of(new Misfit(
                    0,
                    "silentAfter",
                    "`" + knowledge.silentAfter() + "` is no span; write a number and s, m, h or d, such as 3h"));
        }
        return ChannelCheck.problems(knowledge.channels()).stream()
                .findFirst()
                .map(problem -> new Misfit(0, "channels", "channel " + (problem.number() + 1) + ": " + problem.what()));
    }

    private static Optional<Misfit> large(Device.Knowledge knowledge) {
        if (knowledge.model() != null && knowledge.model().length() > LONGEST_NAME) {
            return Optional.of(new Misfit(0, "model", "its name is longer than " + LONGEST_NAME + " characters"));
        }
        if (knowledge.points().size() > MOST_FACTS) {
            return Optional.of(new Misfit(0, "points", "there are more than " + MOST_FACTS));
        }
        for (Device.Point point : knowledge.points().values()) {
            Optional<Misfit> large = large(point.facts());
            if (large.isPresent()) {
                return large;
            }
        }
        return large(knowledge.facts());
    }

    private static Optional<Misfit> large(Map<String, Object> facts) {
        if (facts.size() > MOST_FACTS) {
            return Optional.of(new Misfit(0, "facts", "there are more than " + MOST_FACTS));
        }
        return facts.entrySet().stream()
                .filter(fact -> fact.getKey().length() > LONGEST_NAME
                        || Plain.text(fact.getValue()).length() > LONGEST_FACT)
                .findFirst()
                .map(fact -> new Misfit(
                        0,
                        "facts",
                        "`" + Plain.brief(fact.getKey()) + "` has a name of more than " + LONGEST_NAME
                                + " characters, or a value of more than " + LONGEST_FACT));
    }

    private static boolean offset(String zone) {
        try {
            ZoneId.of(zone);
            return true;
        } catch (DateTimeException e) {
            return false;
        }
    }
}
