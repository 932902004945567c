package org.holtra.core.reading.codec;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.HexFormat;
import java.util.Random;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Over generated layouts and payloads: what was decoded encodes to the same bytes, and nothing is ever thrown. */
class LayoutRoundTripTest {

    private static final int LAYOUTS = 100;
    private static final int PAYLOADS = 50;

    static java.util.stream.IntStream seeds() {
        return java.util.stream.IntStream.range(0, LAYOUTS);
    }

    @ParameterizedTest
    @MethodSource("seeds")
    void whatWasDecodedEncodesToTheSameBytes(int seed) {
        Random random = new Random(seed);
        Generated generated = new Generated(random);
        Layout layout = LayoutTest.layout(generated.yaml());
        for (int i = 0; i < PAYLOADS; i++) {
            byte[] payload = generated.payload(random);
            Decoded decoded = layout.decode(payload, null);
            assertThat(decoded.errors()).as(generated.yaml()).isEmpty();

            Encoded encoded = layout.encode(decoded.data(), null);

            assertThat(encoded.errors()).as(generated.yaml() + decoded).isEmpty();
            assertThat(HexFormat.of().formatHex(encoded.bytes()))
                    .as(generated.yaml() + decoded)
                    .isEqualTo(HexFormat.of().formatHex(payload));
        }
    }

    @ParameterizedTest
    @MethodSource("seeds")
    void anyBytesGiveFieldsOrAnError(int seed) {
        Random random = new Random(seed);
        Layout layout = LayoutTest.layout(new Generated(random).yaml());
        for (int i = 0; i < PAYLOADS; i++) {
            byte[] payload = new byte[random.nextInt(40)];
            random.nextBytes(payload);
            Decoded decoded = layout.decode(payload, random.nextInt(256));
            assertThat(decoded.data()).isNotNull();
        }
    }

    /** A layout of random fields, and payloads that fit it. */
    private static final class Generated {

        private final StringBuilder yaml = new StringBuilder();
        private final java.util.List<Field> fields = new java.util.ArrayList<>();
        private final BitOrder order;

        private record Field(String type, int bits) {}

        Generated(Random random) {
            order = random.nextBoolean() ? BitOrder.BIG : BitOrder.LITTLE;
            yaml.append("order: ")
                    .append(order.name().toLowerCase(java.util.Locale.ROOT))
                    .append("\nfields:\n");
            int count = 1 + random.nextInt(12);
            int total = 0;
            for (int i = 0; i < count; i++) {
                Field field = field(random);
                total += field.bits;
                fields.add(field);
                yaml.append("  - {name: f")
                        .append(i)
                        .append(more(field, random))
                        .append("}\n");
            }
            if (total % 8 != 0) {
                fields.add(new Field("skip", 8 - total % 8));
                yaml.append("  - {skip: ").append(8 - total % 8).append("}\n");
            }
        }

        private static Field field(Random random) {
            return switch (random.nextInt(9)) {
                case 0 -> new Field("signed", 1 + random.nextInt(52));
                case 1 -> new Field("sign-magnitude", 2 + random.nextInt(50));
                case 2 -> new Field("float16", 16);
                case 3 -> new Field("float32", 32);
                case 4 -> new Field("float64", 64);
                case 5 -> new Field("bcd", 4 * (1 + random.nextInt(12)));
                case 6 -> new Field("bool", 1);
                case 7 -> new Field("hex", 8 * (1 + random.nextInt(9)));
                default -> new Field("unsigned", 1 + random.nextInt(63));
            };
        }

        private static String more(Field field, Random random) {
            boolean scalable = field.bits <= 32
                    && java.util.Set.of("signed", "unsigned", "bcd").contains(field.type);
            String scale = scalable
                    ? new String[] {"", ", scale: 0.1", ", scale: 0.01, offset: -40", ", scale: 25", ", scale: 0.003"}
                            [random.nextInt(5)]
                    : "";
            return ", type: " + field.type + ", bits: " + field.bits + scale;
        }

        String yaml() {
            return yaml.toString();
        }

        byte[] payload(Random random) {
            int total = fields.stream().mapToInt(Field::bits).sum();
            byte[] payload = new byte[total / 8];
            int at = 0;
            for (Field field : fields) {
                switch (field.type) {
                    case "hex" -> {
                        for (int i = 0; i < field.bits; i += 8) {
                            order.write(payload, at + i, 8, random.nextInt(256));
                        }
                    }
                    default -> order.write(payload, at, field.bits, raw(field, random));
                }
                at += field.bits;
            }
            return payload;
        }

        private static long raw(Field field, Random random) {
            return switch (field.type) {
                case "skip" -> 0;
                case "float16" -> Float.floatToFloat16(random.nextFloat(-1000, 1000)) & 0xffffL;
                case "float32" -> Float.floatToIntBits(random.nextFloat(-1e6f, 1e6f)) & 0xffff_ffffL;
                case "float64" -> Double.doubleToLongBits(random.nextDouble(-1e9, 1e9));
                case "bcd" -> {
                    long digits = 0;
                    for (int i = 0; i < field.bits; i += 4) {
                        digits = digits << 4 | random.nextInt(10);
                    }
                    yield digits;
                }
                // Minus zero is the one value that does not come back: it is zero.
                case "sign-magnitude" -> {
                    long raw = random.nextLong() & (1L << field.bits) - 1;
                    yield raw == 1L << field.bits - 1 ? 0 : raw;
                }
                default -> random.nextLong() & (1L << field.bits) - 1;
            };
        }
    }
}
