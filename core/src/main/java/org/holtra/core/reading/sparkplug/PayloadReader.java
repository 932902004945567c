package org.holtra.core.reading.sparkplug;

import com.google.protobuf.CodedInputStream;
import com.google.protobuf.WireFormat;
import java.io.IOException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * Reads payloads in Protocol Buffers, as the standard's {@code sparkplug_b.proto} has them. By hand and not by generated classes:
 * most fields of a metric are not sent, and nothing is made of those. Fields that it does not know are passed over.
 */
public final class PayloadReader {

    /** Templates stand in templates, and so on; the standard says no end, but a hostile sender would not either. */
    private static final int DEEPEST = 20;

    private PayloadReader() {}

    /** A payload that is none. */
    public static final class Unreadable extends Exception {

        private static final long serialVersionUID = 1L;

        Unreadable(String what, Throwable cause) {
            super(what, cause);
        }
    }

    /** @throws Unreadable if it is no such payload, with a sentence for people */
    public static Payload read(byte[] bytes) throws Unreadable {
        try {
            return payload(CodedInputStream.newInstance(bytes));
        } catch (IOException | IllegalStateException e) {
            throw new Unreadable("this is no payload of Sparkplug B: " + e.getMessage(), e);
        }
    }

    private static Payload payload(CodedInputStream in) throws IOException {
        Long timestamp = null;
        Long sequence = null;
        List<Metric> metrics = new ArrayList<>();
        for (int tag = in.readTag(); tag != 0; tag = in.readTag()) {
            switch (WireFormat.getTagFieldNumber(tag)) {
                case 1 -> timestamp = in.readUInt64();
                case 2 -> metrics.add(inner(in, it -> metric(it, 0)));
                case 3 -> sequence = in.readUInt64();
                default -> in.skipField(tag);
            }
        }
        return new Payload(timestamp, metrics, sequence);
    }

    private interface Reading<T> {
        T of(CodedInputStream in) throws IOException;
    }

    private static <T> T inner(CodedInputStream in, Reading<T> reading) throws IOException {
        int limit = in.pushLimit(in.readRawVarint32());
        T read = reading.of(in);
        if (in.getBytesUntilLimit() != 0) {
            throw new IOException("a part of it ends in its midst");
        }
        in.popLimit(limit);
        return read;
    }

    private static Metric metric(CodedInputStream in, int depth) throws IOException {
        if (depth > DEEPEST) {
            throw new IOException("templates stand in templates more than " + DEEPEST + " deep");
        }
        String name = null;
        Long alias = null;
        Long timestamp = null;
        MetricType type = null;
        boolean historical = false;
        boolean passing = false;
        boolean absent = false;
        Object raw = null;
        Map<String, Object> properties = Map.of();
        for (int tag = in.readTag(); tag != 0; tag = in.readTag()) {
            switch (WireFormat.getTagFieldNumber(tag)) {
                case 1 -> name = in.readStringRequireUtf8();
                case 2 -> alias = in.readUInt64();
                case 3 -> timestamp = in.readUInt64();
                case 4 -> type = MetricType.of(in.readUInt32()).orElse(null);
                case 5 -> historical = in.readBool();
                case 6 -> passing = in.readBool();
                case 7 -> absent = in.readBool();
                case 9 -> properties = inner(in, PayloadReader::properties);
                case 10 -> raw = in.readUInt32() & 0xFFFF_FFFFL;
                case 11 -> raw = in.readUInt64();
                case 12 -> raw = in.readFloat();
                case 13 -> raw = in.readDouble();
                case 14 -> raw = in.readBool();
                case 15 -> raw = in.readStringRequireUtf8();
                case 16 -> raw = in.readByteArray();
                case 17 -> raw = inner(in, PayloadReader::dataSet);
                case 18 -> raw = inner(in, it -> template(it, depth + 1));
                default -> in.skipField(tag);
            }
        }
        return new Metric(name, alias, timestamp, type, historical, passing, absent ? null : raw, properties);
    }

    private static Map<String, Object> properties(CodedInputStream in) throws IOException {
        List<String> keys = new ArrayList<>();
        List<Object> values = new ArrayList<>();
        for (int tag = in.readTag(); tag != 0; tag = in.readTag()) {
            switch (WireFormat.getTagFieldNumber(tag)) {
                case 1 -> keys.add(in.readStringRequireUtf8());
                case 2 -> values.add(inner(in, PayloadReader::property));
                default -> in.skipField(tag);
            }
        }
        Map<String, Object> named = new LinkedHashMap<>();
        for (int i = 0; i < keys.size() && i < values.size(); i++) {
            named.put(keys.get(i), values.get(i));
        }
        return named;
    }

    /** A property's value, or a template's parameter: both have their values under numbers that follow one another. */
    private static Object property(CodedInputStream in) throws IOException {
        MetricType type = null;
        boolean absent = false;
        Object raw = null;
        for (int tag = in.readTag(); tag != 0; tag = in.readTag()) {
            switch (WireFormat.getTagFieldNumber(tag)) {
                case 1 -> type = MetricType.of(in.readUInt32()).orElse(null);
                case 2 -> absent = in.readBool();
                case 3 -> raw = in.readUInt32() & 0xFFFF_FFFFL;
                case 4 -> raw = in.readUInt64();
                case 5 -> raw = in.readFloat();
                case 6 -> raw = in.readDouble();
                case 7 -> raw = in.readBool();
                case 8 -> raw = in.readStringRequireUtf8();
                case 9 -> raw = inner(in, PayloadReader::properties);
                case 10 -> raw = inner(in, PayloadReader::propertySets);
                default -> in.skipField(tag);
            }
        }
        return absent ? null : MetricValue.of(raw, type);
    }

    private static List<Object> propertySets(CodedInputStream in) throws IOException {
        List<Object> sets = new ArrayList<>();
        for (int tag = in.readTag(); tag != 0; tag = in.readTag()) {
            if (WireFormat.getTagFieldNumber(tag) == 1) {
                sets.add(inner(in, PayloadReader::properties));
            } else {
                in.skipField(tag);
            }
        }
        return sets;
    }

    private static Metric.DataSet dataSet(CodedInputStream in) throws IOException {
        List<String> columns = new ArrayList<>();
        List<MetricType> types = new ArrayList<>();
        List<List<Object>> rows = new ArrayList<>();
        for (int tag = in.readTag(); tag != 0; tag = in.readTag()) {
            switch (WireFormat.getTagFieldNumber(tag)) {
                case 2 -> columns.add(in.readStringRequireUtf8());
                case 3 -> types(in, tag, types);
                case 4 -> rows.add(inner(in, PayloadReader::row));
                default -> in.skipField(tag);
            }
        }
        return new Metric.DataSet(columns, types, rows);
    }

    /** One by one, or packed: a reader has to take both. */
    private static void types(CodedInputStream in, int tag, List<MetricType> types) throws IOException {
        if (WireFormat.getTagWireType(tag) == WireFormat.WIRETYPE_LENGTH_DELIMITED) {
            int limit = in.pushLimit(in.readRawVarint32());
            while (in.getBytesUntilLimit() > 0) {
                types.add(MetricType.of(in.readUInt32()).orElse(null));
            }
            in.popLimit(limit);
        } else {
            types.add(MetricType.of(in.readUInt32()).orElse(null));
        }
    }

    private static List<Object> row(CodedInputStream in) throws IOException {
        List<Object> row = new ArrayList<>();
        for (int tag = in.readTag(); tag != 0; tag = in.readTag()) {
            if (WireFormat.getTagFieldNumber(tag) == 1) {
                row.add(inner(in, PayloadReader::element));
            } else {
                in.skipField(tag);
            }
        }
        return row;
    }

    private static Object element(CodedInputStream in) throws IOException {
        Object raw = null;
        for (int tag = in.readTag(); tag != 0; tag = in.readTag()) {
            switch (WireFormat.getTagFieldNumber(tag)) {
                case 1 -> raw = in.readUInt32() & 0xFFFF_FFFFL;
                case 2 -> raw = in.readUInt64();
                case 3 -> raw = in.readFloat();
                case 4 -> raw = in.readDouble();
                case 5 -> raw = in.readBool();
                case 6 -> raw = in.readStringRequireUtf8();
                default -> in.skipField(tag);
            }
        }
        return raw;
    }

    private static Metric.Template template(CodedInputStream in, int depth) throws IOException {
        List<Metric> metrics = new ArrayList<>();
        Map<String, Object> parameters = new LinkedHashMap<>();
        String reference = null;
        boolean definition = false;
        for (int tag = in.readTag(); tag != 0; tag = in.readTag()) {
            switch (WireFormat.getTagFieldNumber(tag)) {
                case 2 -> metrics.add(inner(in, it -> metric(it, depth)));
                case 3 -> inner(in, it -> parameter(it, parameters));
                case 4 -> reference = in.readStringRequireUtf8();
                case 5 -> definition = in.readBool();
                default -> in.skipField(tag);
            }
        }
        return new Metric.Template(reference, definition, metrics, parameters);
    }

    private static Void parameter(CodedInputStream in, Map<String, Object> parameters) throws IOException {
        String name = "";
        MetricType type = null;
        Object raw = null;
        for (int tag = in.readTag(); tag != 0; tag = in.readTag()) {
            switch (WireFormat.getTagFieldNumber(tag)) {
                case 1 -> name = in.readStringRequireUtf8();
                case 2 -> type = MetricType.of(in.readUInt32()).orElse(null);
                case 3 -> raw = in.readUInt32() & 0xFFFF_FFFFL;
                case 4 -> raw = in.readUInt64();
                case 5 -> raw = in.readFloat();
                case 6 -> raw = in.readDouble();
                case 7 -> raw = in.readBool();
                case 8 -> raw = in.readStringRequireUtf8();
                default -> in.skipField(tag);
            }
        }
        parameters.put(name, MetricValue.of(raw, type));
        return null;
    }
}
