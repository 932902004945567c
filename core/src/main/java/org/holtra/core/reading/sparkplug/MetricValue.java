package org.holtra.core.reading.sparkplug;

import java.math.BigDecimal;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;

/**
 * What a metric's value is as JSON knows it: whole numbers as Long, or BigDecimal where they are beyond it; times as RFC 3339 text;
 * bytes as base64; data sets as lists of rows by column; templates as their metrics by name.
 */
final class MetricValue {

    private static final BigDecimal TWO_TO_64 = new BigDecimal("18446744073709551616");
    private static final int BITS = 8;

    private MetricValue() {}

    /** @param type null where nobody said; then the value is taken as it was sent */
    static Object of(Object raw, MetricType type) {
        return switch (raw) {
            case null -> null;
            case Long number -> whole(number, type);
            // As it is written in decimals: 12.3, not the nearest double's 12.300000190734863.
            case Float number -> finite(Double.parseDouble(number.toString()));
            case Double number -> finite(number);
            case byte[] bytes -> bytes(bytes, type);
            case Metric.DataSet set -> rows(set);
            case Metric.Template template -> members(template);
            default -> raw;
        };
    }

    /** JSON has no infinity and nothing that is no number. */
    private static Object finite(double number) {
        return Double.isFinite(number) ? (Object) number : null;
    }

    private static Object whole(long sent, MetricType type) {
        return switch (type) {
            case INT8 -> (long) (byte) sent;
            case INT16 -> (long) (short) sent;
            case INT32 -> (long) (int) sent;
            case UINT8, UINT16, UINT32 -> sent & 0xFFFF_FFFFL;
            case UINT64 -> unsigned(sent);
            case DATE_TIME -> Instant.ofEpochMilli(sent).toString();
            case BOOLEAN -> sent != 0;
            case null, default -> sent;
        };
    }

    private static Object unsigned(long sent) {
        return sent >= 0 ? (Object) sent : new BigDecimal(sent).add(TWO_TO_64);
    }

    private static Object bytes(byte[] bytes, MetricType type) {
        ByteBuffer buffer = ByteBuffer.wrap(bytes).order(ByteOrder.LITTLE_ENDIAN);
        return switch (type) {
            case INT8_ARRAY -> list(buffer, 1, () -> (long) buffer.get());
            case UINT8_ARRAY -> list(buffer, 1, () -> buffer.get() & 0xFFL);
            case INT16_ARRAY -> list(buffer, 2, () -> (long) buffer.getShort());
            case UINT16_ARRAY -> list(buffer, 2, () -> buffer.getShort() & 0xFFFFL);
            case INT32_ARRAY -> list(buffer, 4, () -> (long) buffer.getInt());
            case UINT32_ARRAY -> list(buffer, 4, () -> buffer.getInt() & 0xFFFF_FFFFL);
            case INT64_ARRAY -> list(buffer, 8, buffer::getLong);
            case UINT64_ARRAY -> list(buffer, 8, () -> unsigned(buffer.getLong()));
            case FLOAT_ARRAY -> list(buffer, 4, () -> of(buffer.getFloat(), null));
            case DOUBLE_ARRAY -> list(buffer, 8, () -> finite(buffer.getDouble()));
            case DATE_TIME_ARRAY ->
                list(buffer, 8, () -> Instant.ofEpochMilli(buffer.getLong()).toString());
            case BOOLEAN_ARRAY -> booleans(buffer);
            case STRING_ARRAY -> texts(bytes);
            case null, default -> Base64.getEncoder().encodeToString(bytes);
        };
    }

    private static List<Object> list(ByteBuffer buffer, int size, Supplier<Object> next) {
        List<Object> all = new ArrayList<>(buffer.remaining() / size);
        while (buffer.remaining() >= size) {
            all.add(next.get());
        }
        return all;
    }

    /** How many there are, in four bytes, and then eight to a byte, the first in its highest bit. */
    private static List<Object> booleans(ByteBuffer buffer) {
        List<Object> all = new ArrayList<>();
        if (buffer.remaining() < Integer.BYTES) {
            return all;
        }
        long count = Math.min(buffer.getInt() & 0xFFFF_FFFFL, (long) buffer.remaining() * BITS);
        for (int i = 0; i < count; i++) {
            all.add((buffer.get(Integer.BYTES + i / BITS) >> (BITS - 1 - i % BITS) & 1) == 1);
        }
        return all;
    }

    /** Each ends with a zero byte. */
    private static List<Object> texts(byte[] bytes) {
        List<Object> all = new ArrayList<>();
        int begin = 0;
        for (int i = 0; i < bytes.length; i++) {
            if (bytes[i] == 0) {
                all.add(new String(bytes, begin, i - begin, StandardCharsets.UTF_8));
                begin = i + 1;
            }
        }
        if (begin < bytes.length) {
            all.add(new String(bytes, begin, bytes.length - begin, StandardCharsets.UTF_8));
        }
        return all;
    }

    private static List<Object> rows(Metric.DataSet set) {
        List<Object> rows = new ArrayList<>();
        for (List<Object> row : set.rows()) {
            Map<String, Object> named = new LinkedHashMap<>();
            for (int i = 0; i < row.size() && i < set.columns().size(); i++) {
                named.put(
                        set.columns().get(i),
                        of(row.get(i), i < set.types().size() ? set.types().get(i) : null));
            }
            rows.add(named);
        }
        return rows;
    }

    private static Map<String, Object> members(Metric.Template template) {
        Map<String, Object> members = new LinkedHashMap<>(template.parameters());
        for (Metric metric : template.metrics()) {
            members.put(metric.name() == null ? "alias " + metric.alias() : metric.name(), metric.value());
        }
        return members;
    }
}
