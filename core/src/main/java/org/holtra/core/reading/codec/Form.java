package org.holtra.core.reading.codec;

import java.nio.charset.StandardCharsets;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.Locale;
import java.util.Map;

/** How the bits of one field stand for its value, in both directions. */
sealed interface Form {

    /** @param at where it stands, for a failure */
    Object value(byte[] bytes, int at, int bits, BitOrder order) throws CodecFailure;

    /** @return the bits, in a long or, for text, as bytes */
    Object raw(Object value, int bits) throws CodecFailure;

    /** Whole numbers with a scale. */
    record Whole(Sign sign, Scale scale) implements Form {

        enum Sign {
            UNSIGNED,
            /** Two's complement. */
            SIGNED,
            /** The highest bit is the sign, the others the amount. */
            SIGN_MAGNITUDE
        }

        private static final long EXACT_IN_DOUBLE = 1L << 53;

        @Override
        public Object value(byte[] bytes, int at, int bits, BitOrder order) {
            long raw = order.read(bytes, at, bits);
            long whole = switch (sign) {
                case UNSIGNED -> raw;
                case SIGNED -> raw << 64 - bits >> 64 - bits;
                case SIGN_MAGNITUDE -> {
                    long amount = raw & (1L << bits - 1) - 1;
                    yield raw >>> bits - 1 == 0 ? amount : -amount;
                }
            };
            boolean beyondLong = sign == Sign.UNSIGNED && whole < 0;
            double number = beyondLong ? (whole >>> 1) * 2.0 : whole;
            if (!scale.plain()) {
                return scale.value(number);
            }
            // As JSON is read: doubles, and exact 64-bit integers where a double would not hold them.
            if (!beyondLong && (whole > EXACT_IN_DOUBLE || whole < -EXACT_IN_DOUBLE)) {
                return whole;
            }
            return number;
        }

        @Override
        public Object raw(Object value, int bits) throws CodecFailure {
            if (!(value instanceof Number number)) {
                throw new CodecFailure("is " + value + ", a number was expected");
            }
            long whole =
                    scale.plain() && number instanceof Long exact ? exact : Math.round(scale.raw(number.doubleValue()));
            long most = bits == 64 || sign == Sign.UNSIGNED && bits == 63 ? Long.MAX_VALUE : (1L << bits - 1) - 1;
            long least = sign == Sign.UNSIGNED ? 0 : sign == Sign.SIGNED ? -most - 1 : -most;
            if (sign == Sign.UNSIGNED && bits < 63) {
                most = (1L << bits) - 1;
            }
            if (whole < least || whole > most) {
                throw new CodecFailure(
                        "is " + value + ", " + bits + " bits hold " + scale.value(least) + " to " + scale.value(most));
            }
            return sign == Sign.SIGN_MAGNITUDE && whole < 0 ? -whole | 1L << bits - 1 : whole;
        }
    }

    /** IEEE 754 numbers of 16, 32 or 64 bits. One that is no number is absent. */
    record Floating(Scale scale) implements Form {
        @Override
        public Object value(byte[] bytes, int at, int bits, BitOrder order) {
            long raw = order.read(bytes, at, bits);
            double number = switch (bits) {
                case 16 -> Float.float16ToFloat((short) raw);
                case 32 -> shortest(Float.intBitsToFloat((int) raw));
                default -> Double.longBitsToDouble(raw);
            };
            return Double.isFinite(number) ? scale.value(number) : null;
        }

        /** 21.3f as 21.3, not as 21.299999237060547: the shortest decimal that is the same float. */
        private static double shortest(float number) {
            return Double.parseDouble(Float.toString(number));
        }

        @Override
        public Object raw(Object value, int bits) throws CodecFailure {
            if (!(value instanceof Number number)) {
                throw new CodecFailure("is " + value + ", a number was expected");
            }
            double raw = scale.raw(number.doubleValue());
            return switch (bits) {
                case 16 -> (long) Float.floatToFloat16((float) raw) & 0xffff;
                case 32 -> (long) Float.floatToIntBits((float) raw) & 0xffff_ffffL;
                default -> Double.doubleToLongBits(raw);
            };
        }
    }

    /** Decimal digits, four bits each, the most significant first. */
    record Decimal(Scale scale) implements Form {
        @Override
        public Object value(byte[] bytes, int at, int bits, BitOrder order) throws CodecFailure {
            long raw = order.read(bytes, at, bits);
            long number = 0;
            for (int shift = bits - 4; shift >= 0; shift -= 4) {
                long digit = raw >>> shift & 15;
                if (digit > 9) {
                    throw new CodecFailure("is 0x" + Long.toHexString(raw) + ", which is no decimal number in BCD");
                }
                number = number * 10 + digit;
            }
            return scale.value(number);
        }

        @Override
        public Object raw(Object value, int bits) throws CodecFailure {
            if (!(value instanceof Number number)) {
                throw new CodecFailure("is " + value + ", a number was expected");
            }
            long rest = Math.round(scale.raw(number.doubleValue()));
            long raw = 0;
            for (int shift = 0; shift < bits; shift += 4) {
                raw |= rest % 10 << shift;
                rest /= 10;
            }
            if (rest != 0 || raw < 0) {
                throw new CodecFailure("is " + value + ", there is room for " + bits / 4 + " digits");
            }
            return raw;
        }
    }

    record Flag() implements Form {
        @Override
        public Object value(byte[] bytes, int at, int bits, BitOrder order) {
            return order.read(bytes, at, bits) != 0;
        }

        @Override
        public Object raw(Object value, int bits) throws CodecFailure {
            if (!(value instanceof Boolean flag)) {
                throw new CodecFailure("is " + value + ", true or false was expected");
            }
            return flag ? 1L : 0L;
        }
    }

    /** Bits with names, 0 the lowest. */
    record Flags(Map<Integer, String> names) implements Form {
        @Override
        public Object value(byte[] bytes, int at, int bits, BitOrder order) {
            long raw = order.read(bytes, at, bits);
            Map<String, Object> flags = LinkedHashMap.newLinkedHashMap(names.size());
            names.forEach((bit, name) -> flags.put(name, (raw >>> bit & 1) != 0));
            return flags;
        }

        @Override
        public Object raw(Object value, int bits) throws CodecFailure {
            if (!(value instanceof Map<?, ?> flags)) {
                throw new CodecFailure(
                        "is " + value + ", an object of " + String.join(", ", names.values()) + " was expected");
            }
            long raw = 0;
            for (Map.Entry<Integer, String> name : names.entrySet()) {
                if (Boolean.TRUE.equals(flags.get(name.getValue()))) {
                    raw |= 1L << name.getKey();
                }
            }
            return raw;
        }
    }

    /** Numbers with names. One without a name stays a number. */
    record Choice(Map<Long, String> names) implements Form {
        @Override
        public Object value(byte[] bytes, int at, int bits, BitOrder order) {
            long raw = order.read(bytes, at, bits);
            String name = names.get(raw);
            return name == null ? (Object) (double) raw : name;
        }

        @Override
        public Object raw(Object value, int bits) throws CodecFailure {
            for (Map.Entry<Long, String> name : names.entrySet()) {
                if (name.getValue().equals(value)) {
                    return name.getKey();
                }
            }
            if (value instanceof Number number) {
                return new Whole(Whole.Sign.UNSIGNED, Scale.NONE).raw(number, bits);
            }
            throw new CodecFailure("is " + value + ", one of " + String.join(", ", names.values()) + " was expected");
        }
    }

    /** ASCII text, filled up with zeros. */
    record Text() implements Form {
        @Override
        public Object value(byte[] bytes, int at, int bits, BitOrder order) throws CodecFailure {
            byte[] text = bytes(bytes, at, bits, order);
            int length = text.length;
            while (length > 0 && text[length - 1] == 0) {
                length--;
            }
            for (int i = 0; i < length; i++) {
                if (text[i] < 0) {
                    throw new CodecFailure(
                            "holds the byte 0x" + HexFormat.of().toHexDigits(text[i]) + ", which is not ASCII");
                }
            }
            return new String(text, 0, length, StandardCharsets.US_ASCII);
        }

        @Override
        public Object raw(Object value, int bits) throws CodecFailure {
            if (!(value instanceof String text)
                    || !StandardCharsets.US_ASCII.newEncoder().canEncode(text)) {
                throw new CodecFailure("is " + value + ", a text in ASCII was expected");
            }
            return fitted(text.getBytes(StandardCharsets.US_ASCII), bits, true);
        }

        static byte[] bytes(byte[] bytes, int at, int bits, BitOrder order) {
            byte[] part = new byte[bits / 8];
            for (int i = 0; i < part.length; i++) {
                part[i] = (byte) order.read(bytes, at + i * 8, 8);
            }
            return part;
        }

        static byte[] fitted(byte[] bytes, int bits, boolean fill) throws CodecFailure {
            if (bytes.length > bits / 8 || !fill && bytes.length < bits / 8) {
                throw new CodecFailure("has " + bytes.length + " bytes, " + bits / 8 + " were expected");
            }
            return java.util.Arrays.copyOf(bytes, bits / 8);
        }
    }

    /** Bytes as they are, written in hexadecimal. */
    record Hex() implements Form {
        @Override
        public Object value(byte[] bytes, int at, int bits, BitOrder order) {
            return HexFormat.of().formatHex(Text.bytes(bytes, at, bits, order));
        }

        @Override
        public Object raw(Object value, int bits) throws CodecFailure {
            try {
                return Text.fitted(
                        HexFormat.of().parseHex(String.valueOf(value).toLowerCase(Locale.ROOT)), bits, false);
            } catch (IllegalArgumentException e) {
                throw new CodecFailure("is " + value + ", hexadecimal digits were expected");
            }
        }
    }
}
