package org.holtra.core.reading.sparkplug;

import com.google.protobuf.CodedOutputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.Map;

/** Writes payloads as {@link PayloadReader} reads them: for edge nodes. Data sets and templates are not written. */
public final class PayloadWriter {

    private PayloadWriter() {}

    /** @throws IllegalArgumentException if a metric's value is not one that is written */
    public static byte[] write(Payload payload) {
        return written(out -> {
            if (payload.timestamp() != null) {
                out.writeUInt64(1, payload.timestamp());
            }
            for (Metric metric : payload.metrics()) {
                out.writeByteArray(2, written(inner -> metric(inner, metric)));
            }
            if (payload.sequence() != null) {
                out.writeUInt64(3, payload.sequence());
            }
        });
    }

    private interface Writing {
        void to(CodedOutputStream out) throws IOException;
    }

    private static byte[] written(Writing writing) {
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        CodedOutputStream out = CodedOutputStream.newInstance(bytes);
        try {
            writing.to(out);
            out.flush();
        } catch (IOException e) {
            throw new UncheckedIOException("memory cannot be written", e);
        }
        return bytes.toByteArray();
    }

    private static void metric(CodedOutputStream out, Metric metric) throws IOException {
        if (metric.name() != null) {
            out.writeString(1, metric.name());
        }
        if (metric.alias() != null) {
            out.writeUInt64(2, metric.alias());
        }
        if (metric.timestamp() != null) {
            out.writeUInt64(3, metric.timestamp());
        }
        if (metric.type() != null) {
            out.writeUInt32(4, metric.type().code());
        }
        if (metric.historical()) {
            out.writeBool(5, true);
        }
        if (metric.transientValue()) {
            out.writeBool(6, true);
        }
        if (!metric.properties().isEmpty()) {
            out.writeByteArray(9, written(inner -> properties(inner, metric.properties())));
        }
        value(out, metric);
    }

    private static void value(CodedOutputStream out, Metric metric) throws IOException {
        switch (metric.raw()) {
            case null -> out.writeBool(7, true);
            case Long number when isLong(metric.type()) -> out.writeUInt64(11, number);
            case Long number -> out.writeUInt32(10, number.intValue());
            case Float number -> out.writeFloat(12, number);
            case Double number -> out.writeDouble(13, number);
            case Boolean truth -> out.writeBool(14, truth);
            case String text -> out.writeString(15, text);
            case byte[] bytes -> out.writeByteArray(16, bytes);
            default ->
                throw new IllegalArgumentException(
                        "metric " + metric.name() + " has a value that cannot be written: " + metric.raw());
        }
    }

    private static boolean isLong(MetricType type) {
        return type == MetricType.INT64
                || type == MetricType.UINT64
                || type == MetricType.UINT32
                || type == MetricType.DATE_TIME;
    }

    private static void properties(CodedOutputStream out, Map<String, Object> properties) throws IOException {
        for (String key : properties.keySet()) {
            out.writeString(1, key);
        }
        for (Object value : properties.values()) {
            out.writeByteArray(2, written(inner -> property(inner, value)));
        }
    }

    private static void property(CodedOutputStream out, Object value) throws IOException {
        switch (value) {
            case null -> out.writeBool(2, true);
            case Boolean truth -> {
                out.writeUInt32(1, MetricType.BOOLEAN.code());
                out.writeBool(7, truth);
            }
            case Long number -> {
                out.writeUInt32(1, MetricType.INT64.code());
                out.writeUInt64(4, number);
            }
            case Number number -> {
                out.writeUInt32(1, MetricType.DOUBLE.code());
                out.writeDouble(6, number.doubleValue());
            }
            default -> {
                out.writeUInt32(1, MetricType.STRING.code());
                out.writeString(8, value.toString());
            }
        }
    }
}
