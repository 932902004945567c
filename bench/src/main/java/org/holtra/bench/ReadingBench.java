package org.holtra.bench;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HexFormat;
import java.util.concurrent.TimeUnit;
import org.holtra.core.reading.codec.Decoded;
import org.holtra.core.reading.codec.Layout;
import org.holtra.core.reading.codec.Script;
import org.holtra.core.reading.content.CodecUnavailable;
import org.holtra.core.reading.content.JsonFormat;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.compile.CodecText;
import org.holtra.scripts.ScriptLimits;
import org.holtra.scripts.Scripts;
import org.openjdk.jmh.annotations.Benchmark;
import org.openjdk.jmh.annotations.BenchmarkMode;
import org.openjdk.jmh.annotations.Fork;
import org.openjdk.jmh.annotations.Measurement;
import org.openjdk.jmh.annotations.Mode;
import org.openjdk.jmh.annotations.OutputTimeUnit;
import org.openjdk.jmh.annotations.Scope;
import org.openjdk.jmh.annotations.State;
import org.openjdk.jmh.annotations.TearDown;
import org.openjdk.jmh.annotations.Warmup;

/** What it costs to read one message, on one thread. */
@State(Scope.Benchmark)
@BenchmarkMode(Mode.Throughput)
@OutputTimeUnit(TimeUnit.SECONDS)
@Fork(1)
@Warmup(iterations = 3, time = 5)
@Measurement(iterations = 5, time = 3)
public class ReadingBench {

    private static final String LAYOUT = """
            fields:
              - {name: airTemperature, bits: 16, type: signed, scale: 0.01}
              - {name: wetBulb, bits: 16, type: signed, scale: 0.01}
              - {name: humidity, bits: 8, scale: 0.5}
              - {name: leafWetness, bits: 4}
              - {name: lidOpen, type: bool}
              - {skip: 3}
              - {name: battery, bits: 8}
              - {name: rain, bits: 32, scale: 0.2}
              - {name: wind, bits: 16, scale: 0.1, absent: 0xffff}
              - {name: mode, bits: 8, type: enum, values: {1: normal, 2: frost}}
              - {name: pressure, bits: 16, order: little, scale: 0.1}
            """;
    private static final String SCRIPT = """
            function int16(bytes, at) {
              const value = (bytes[at] << 8) | bytes[at + 1];
              return value > 32767 ? value - 65536 : value;
            }
            function decodeUplink(input) {
              const { bytes, fPort } = input;
              if (fPort !== 2) return { errors: ['unknown port ' + fPort] };
              if (bytes.length < 16) return { errors: ['too short'] };
              const data = {};
              data.airTemperature = int16(bytes, 0) / 100;
              data.wetBulb = int16(bytes, 2) / 100;
              data.humidity = bytes[4] / 2;
              data.leafWetness = bytes[5] >> 4;
              data.battery = bytes[6];
              data.rain = ((bytes[7] << 24) | (bytes[8] << 16) | (bytes[9] << 8) | bytes[10]) / 5;
              data.wind = int16(bytes, 11) / 10;
              data.mode = ['', 'normal', 'frost'][bytes[13]];
              const warnings = data.battery < 15 ? ['the battery is nearly empty'] : [];
              return { data, warnings };
            }
            """;
    private static final byte[] PAYLOAD = HexFormat.of().parseHex("ff9cfe70b2e8500000271000550127f2");
    private static final Instant RECEIVED = Instant.parse("2026-04-12T03:20:00Z");
    private static final byte[] JSON = """
            {"type":"uplink","device":{"id":"cs-01","profile":"climate-station"},"at":"2026-11-25T08:06:05.947Z","port":2,\
            "counter":2,"payload":"/5z+cLLoUAAAJxAAVQEn8g==","radio":{"frequency":868.1,"spreadingFactor":8},"gateways":\
            [{"id":"gw-ashcombe","rssi":-104,"snr":7.9,"position":{"lat":12.58,"alt":131,"lon":-41.25}}],"simulated":true}\
            """.getBytes(StandardCharsets.UTF_8);

    private final Layout layout = (Layout) CodecText.layout(LAYOUT).codec().orElseThrow();
    private final Script script = new Script(SCRIPT);
    private final Scripts scripts = new Scripts(ScriptLimits.USUAL, InstantSource.system());
    private final JsonFormat json = new JsonFormat();

    @Benchmark
    public Decoded layoutOfTenFields() {
        return layout.decode(PAYLOAD, 2);
    }

    @Benchmark
    public Decoded scriptOfTwentyLines() throws CodecUnavailable {
        Decoded decoded = scripts.decodeUplink(script, PAYLOAD, 2, RECEIVED);
        if (!decoded.errors().isEmpty()) {
            throw new IllegalStateException(decoded.toString());
        }
        return decoded;
    }

    @Benchmark
    public Object jsonOf350Bytes() throws UnreadableContent {
        return json.parse(JSON);
    }

    @TearDown
    public void close() {
        scripts.close();
    }
}
