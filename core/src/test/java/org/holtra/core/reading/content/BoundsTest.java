package org.holtra.core.reading.content;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatExceptionOfType;

import java.io.ByteArrayOutputStream;
import java.lang.management.ManagementFactory;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.function.IntFunction;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** What a hostile sender would send: much in few bytes. */
class BoundsTest {

    private record Hostile(String name, Format format, IntFunction<byte[]> body) {
        @Override
        public String toString() {
            return name;
        }
    }

    private static byte[] text(String text) {
        return text.getBytes(StandardCharsets.UTF_8);
    }

    private static byte[] cbor(byte[] head, byte[] each, int count) {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        out.writeBytes(head);
        for (int i = 0; i < count; i++) {
            out.writeBytes(each);
        }
        out.write(0xff);
        return out.toByteArray();
    }

    private static Stream<Hostile> bodies() {
        byte[] list = {(byte) 0x9f};
        return Stream.of(
                new Hostile("a form that repeats a name", Format.FORM, n -> text("a=1&".repeat(n))),
                new Hostile("a form of many names", Format.FORM, n -> text(many(n, "a%d=1&"))),
                new Hostile("a list in JSON", Format.JSON, n -> text("[" + "1,".repeat(n) + "1]")),
                new Hostile("an object in JSON", Format.JSON, n -> text("{" + many(n, "\"a%d\":1,") + "\"z\":1}")),
                new Hostile("lists in JSON", Format.JSON, n -> text("[" + "[],".repeat(n / 2) + "1]")),
                new Hostile("a list in CBOR", Format.CBOR, n -> cbor(list, new byte[] {1}, n)),
                new Hostile("tagged values in CBOR", Format.CBOR, n -> cbor(list, new byte[] {(byte) 0xc1, 1}, n / 2)),
                new Hostile("pieces of a text in CBOR", Format.CBOR, n -> cbor(new byte[] {0x7f}, text("aa"), n)),
                new Hostile("lines of CSV", Format.CSV, n -> text("a;b\n" + "1;2\n".repeat(n / 2))),
                new Hostile("columns of CSV", Format.CSV, n -> text("a;".repeat(n / 2) + "\n" + "1;".repeat(n / 2))),
                new Hostile("elements of XML", Format.XML, n -> text("<r>" + "<a>1</a>".repeat(n / 2) + "</r>")),
                new Hostile("text", Format.TEXT, n -> text("1".repeat(n))));
    }

    private static String many(int count, String each) {
        StringBuilder text = new StringBuilder();
        for (int i = 0; i < count; i++) {
            text.append(each.replace("%d", Integer.toString(i)));
        }
        return text.toString();
    }

    /** The least of some runs, in the thread's own time: other work on the machine does not count. */
    private static long nanos(Hostile hostile, int size) throws UnreadableContent {
        byte[] body = hostile.body.apply(size);
        var threads = ManagementFactory.getThreadMXBean();
        long least = Long.MAX_VALUE;
        for (int i = 0; i < 8; i++) {
            long began = threads.getCurrentThreadCpuTime();
            hostile.format.parse(body);
            least = Math.min(least, threads.getCurrentThreadCpuTime() - began);
        }
        return least;
    }

    @ParameterizedTest
    @MethodSource("bodies")
    void twiceAsMuchTakesTwiceAsLong(Hostile hostile) throws UnreadableContent {
        nanos(hostile, 10_000);
        long once = nanos(hostile, 20_000);
        long twice = nanos(hostile, 40_000);

        assertThat(twice).isLessThan(3 * once + 5_000_000);
    }

    @ParameterizedTest
    @MethodSource("bodies")
    void moreThanABodyMayHoldIsRefused(Hostile hostile) {
        if (hostile.format == Format.TEXT) {
            return; // one value, of which the inlet bounds the size
        }
        assertThatExceptionOfType(UnreadableContent.class)
                .isThrownBy(() -> hostile.format.parse(hostile.body.apply(500_000)));
    }

    @Test
    void tagsUponTagsAreRefusedAtOnce() {
        byte[] tags = cbor(new byte[0], new byte[] {(byte) 0xc1}, 200_000);

        assertThatExceptionOfType(UnreadableContent.class)
                .isThrownBy(() -> Format.CBOR.parse(tags))
                .withMessage("the body has more than 8 CBOR tags on one value (byte 8)");
    }

    @Test
    void depthAndDigitsAreBounded() {
        for (String body : List.of("[".repeat(200) + "]".repeat(200), "1".repeat(500))) {
            assertThatExceptionOfType(UnreadableContent.class)
                    .isThrownBy(() -> Format.JSON.parse(text(body)))
                    .withMessageContaining("the body is not JSON");
        }
    }

    @Test
    void anHonestFormThatRepeatsANameKeepsItsOrder() throws UnreadableContent {
        assertThat(Format.FORM.parse(text("a=1&b=x&a=2&a=3"))).isEqualTo(Map.of("a", List.of(1.0, 2.0, 3.0), "b", "x"));
    }
}
