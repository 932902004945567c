package org.holtra.core.reading.sparkplug;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.google.protobuf.CodedOutputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.math.BigDecimal;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.MethodSource;

class PayloadTest {

    private static Metric metric(String name, MetricType type, Object raw) {
        return new Metric(name, null, null, type, false, false, raw, Map.of());
    }

    private static Metric again(Metric metric) throws PayloadReader.Unreadable {
        byte[] bytes = PayloadWriter.write(new Payload(1L, List.of(metric), 7L));
        return PayloadReader.read(bytes).metrics().getFirst();
    }

    static List<Arguments> values() {
        return List.of(
                Arguments.of(MetricType.INT8, 0xFFFF_FFFEL, -2L),
                Arguments.of(MetricType.INT8, 254L, -2L),
                Arguments.of(MetricType.INT16, 0xFFFF_FFFEL, -2L),
                Arguments.of(MetricType.INT32, 0xFFFF_FFFEL, -2L),
                Arguments.of(MetricType.INT64, -2L, -2L),
                Arguments.of(MetricType.UINT8, 254L, 254L),
                Arguments.of(MetricType.UINT16, 65_534L, 65_534L),
                Arguments.of(MetricType.UINT32, 4_294_967_294L, 4_294_967_294L),
                Arguments.of(MetricType.UINT64, 5L, 5L),
                Arguments.of(MetricType.UINT64, -1L, new BigDecimal("18446744073709551615")),
                Arguments.of(MetricType.FLOAT, 12.3f, 12.3),
                Arguments.of(MetricType.FLOAT, Float.NaN, null),
                Arguments.of(MetricType.DOUBLE, 12.3, 12.3),
                Arguments.of(MetricType.BOOLEAN, true, true),
                Arguments.of(MetricType.STRING, "ok", "ok"),
                Arguments.of(MetricType.TEXT, "äöü", "äöü"),
                Arguments.of(MetricType.UUID, "0190", "0190"),
                Arguments.of(MetricType.DATE_TIME, 0L, "1970-01-01T00:00:00Z"),
                Arguments.of(MetricType.BYTES, new byte[] {1, 2}, "AQI="),
                Arguments.of(MetricType.FILE, new byte[] {1, 2}, "AQI="),
                Arguments.of(MetricType.INT8_ARRAY, new byte[] {-23, 123}, List.of(-23L, 123L)),
                Arguments.of(MetricType.UINT8_ARRAY, new byte[] {23, (byte) 250}, List.of(23L, 250L)),
                Arguments.of(MetricType.INT16_ARRAY, hex("FE FF 01 00"), List.of(-2L, 1L)),
                Arguments.of(MetricType.UINT16_ARRAY, hex("FE FF"), List.of(65_534L)),
                Arguments.of(MetricType.INT32_ARRAY, hex("FE FF FF FF"), List.of(-2L)),
                Arguments.of(MetricType.UINT32_ARRAY, hex("FE FF FF FF"), List.of(4_294_967_294L)),
                Arguments.of(MetricType.INT64_ARRAY, hex("FE FF FF FF FF FF FF FF"), List.of(-2L)),
                Arguments.of(
                        MetricType.UINT64_ARRAY,
                        hex("FF FF FF FF FF FF FF FF"),
                        List.of(new BigDecimal("18446744073709551615"))),
                Arguments.of(MetricType.FLOAT_ARRAY, floats(1.5f, 12.3f), List.of(1.5, 12.3)),
                Arguments.of(MetricType.DOUBLE_ARRAY, hex("00 00 00 00 00 00 F8 3F"), List.of(1.5)),
                Arguments.of(
                        MetricType.DATE_TIME_ARRAY, hex("00 00 00 00 00 00 00 00"), List.of("1970-01-01T00:00:00Z")),
                Arguments.of(
                        MetricType.BOOLEAN_ARRAY,
                        hex("0A 00 00 00 C0 40"),
                        List.of(true, true, false, false, false, false, false, false, false, true)),
                Arguments.of(MetricType.STRING_ARRAY, hex("41 42 00 43 00"), List.of("AB", "C")));
    }

    private static byte[] hex(String text) {
        return HexFormat.ofDelimiter(" ").parseHex(text);
    }

    private static byte[] floats(float... numbers) {
        ByteBuffer buffer = ByteBuffer.allocate(4 * numbers.length).order(ByteOrder.LITTLE_ENDIAN);
        for (float number : numbers) {
            buffer.putFloat(number);
        }
        return buffer.array();
    }

    @ParameterizedTest
    @MethodSource("values")
    void eachTypeHasItsValue(MetricType type, Object raw, Object value) throws PayloadReader.Unreadable {
        assertThat(again(metric("m", type, raw)).value()).isEqualTo(value);
        assertThat(again(metric("m", type, raw)).type()).isEqualTo(type);
    }

    @Test
    void nameAliasTimeFlagsAndPropertiesAreRead() throws PayloadReader.Unreadable {
        Metric metric = new Metric(
                "Pump/Flow",
                12L,
                1_700_000_000_000L,
                MetricType.DOUBLE,
                true,
                true,
                4.5,
                Map.of("engUnit", "m3/h", "quality", 192L, "low", 0.5, "checked", true));

        assertThat(again(metric)).isEqualTo(metric);
    }

    @Test
    void aMetricWithoutAValueHasNone() throws PayloadReader.Unreadable {
        assertThat(again(metric("m", MetricType.DOUBLE, null)).value()).isNull();
    }

    @Test
    void thePayloadTellsItsTimeAndNumber() throws PayloadReader.Unreadable {
        Payload payload = new Payload(
                1_700_000_000_000L, List.of(metric(Payload.BIRTH_DEATH_SEQUENCE, MetricType.INT64, 3L)), 255L);

        Payload read = PayloadReader.read(PayloadWriter.write(payload));
        assertThat(read).isEqualTo(payload);
        assertThat(read.birthDeathSequence()).contains(3L);
    }

    private interface Writing {
        void to(CodedOutputStream out) throws IOException;
    }

    private static byte[] bytes(Writing writing) {
        try {
            ByteArrayOutputStream bytes = new ByteArrayOutputStream();
            CodedOutputStream out = CodedOutputStream.newInstance(bytes);
            writing.to(out);
            out.flush();
            return bytes.toByteArray();
        } catch (IOException e) {
            throw new AssertionError(e);
        }
    }

    /** A payload of one metric, of whose fields this writes those from its value on. */
    private static byte[] payload(Writing value) {
        return bytes(out -> out.writeByteArray(2, bytes(inner -> {
            inner.writeString(1, "m");
            value.to(inner);
        })));
    }

    @Test
    void aDataSetIsAListOfRowsByColumn() throws PayloadReader.Unreadable {
        byte[] set = bytes(out -> {
            out.writeUInt64(1, 2);
            out.writeString(2, "depth");
            out.writeString(2, "what");
            out.writeUInt32(3, MetricType.INT8.code());
            out.writeUInt32(3, MetricType.STRING.code());
            for (int row = 0; row < 2; row++) {
                int number = -row;
                out.writeByteArray(4, bytes(elements -> {
                    elements.writeByteArray(1, bytes(element -> element.writeUInt32(1, number)));
                    elements.writeByteArray(1, bytes(element -> element.writeString(6, "clay")));
                }));
            }
        });

        Metric metric = PayloadReader.read(payload(out -> out.writeByteArray(17, set)))
                .metrics()
                .getFirst();
        assertThat(metric.value())
                .isEqualTo(List.of(Map.of("depth", 0L, "what", "clay"), Map.of("depth", -1L, "what", "clay")));
    }

    @Test
    void aTemplateIsItsMetricsAndParametersByName() throws PayloadReader.Unreadable {
        byte[] template = bytes(out -> {
            out.writeByteArray(2, bytes(inner -> {
                inner.writeString(1, "flow");
                inner.writeUInt32(4, MetricType.DOUBLE.code());
                inner.writeDouble(13, 4.5);
            }));
            out.writeByteArray(3, bytes(inner -> {
                inner.writeString(1, "maker");
                inner.writeUInt32(2, MetricType.STRING.code());
                inner.writeString(8, "Vale");
            }));
            out.writeString(4, "pump");
        });

        Metric metric = PayloadReader.read(payload(out -> out.writeByteArray(18, template)))
                .metrics()
                .getFirst();
        assertThat(metric.value()).isEqualTo(Map.of("flow", 4.5, "maker", "Vale"));
        assertThat(((Metric.Template) metric.raw()).reference()).isEqualTo("pump");
    }

    @Test
    void templatesThatAreNestedWithoutEndAreRefused() {
        byte[] inner = bytes(out -> out.writeString(1, "m"));
        for (int i = 0; i < 60; i++) {
            byte[] below = inner;
            byte[] template = bytes(out -> out.writeByteArray(2, below));
            inner = bytes(out -> out.writeByteArray(18, template));
        }
        byte[] metric = inner;
        assertThatThrownBy(() -> PayloadReader.read(bytes(out -> out.writeByteArray(2, metric))))
                .isInstanceOf(PayloadReader.Unreadable.class)
                .hasMessageContaining("20 deep");
    }

    @Test
    void fieldsAndTypesThatNobodyKnowsArePassedOver() throws PayloadReader.Unreadable {
        byte[] bytes = payload(out -> {
            out.writeUInt32(4, 99);
            out.writeDouble(13, 1.5);
            out.writeString(30, "of a later version");
        });

        Metric metric = PayloadReader.read(bytes).metrics().getFirst();
        assertThat(metric.type()).isNull();
        assertThat(metric.value()).isEqualTo(1.5);
    }

    @Test
    void whateverIsSentIsReadOrRefusedAndNothingElse() {
        Random random = new Random(4);
        byte[] good = PayloadWriter.write(new Payload(
                1L, List.of(metric("a", MetricType.DOUBLE, 1.5), metric("b", MetricType.STRING, "text")), 1L));
        for (int i = 0; i < 20_000; i++) {
            byte[] bytes = good.clone();
            for (int change = random.nextInt(4); change >= 0; change--) {
                bytes[random.nextInt(bytes.length)] = (byte) random.nextInt(256);
            }
            byte[] cut = java.util.Arrays.copyOf(bytes, random.nextInt(bytes.length + 1));
            try {
                PayloadReader.read(cut).metrics().forEach(Metric::value);
            } catch (PayloadReader.Unreadable e) {
                assertThat(e).hasMessageStartingWith("this is no payload of Sparkplug B: ");
            }
        }
    }
}
