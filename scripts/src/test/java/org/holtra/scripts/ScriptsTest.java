package org.holtra.scripts;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatExceptionOfType;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicReference;
import java.util.stream.Collectors;
import org.holtra.core.reading.codec.Decoded;
import org.holtra.core.reading.codec.Script;
import org.holtra.core.reading.content.CodecUnavailable;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class ScriptsTest {

    private static final Instant RECEIVED = Instant.parse("2026-04-12T03:20:00Z");
    private static final AtomicReference<Instant> NOW = new AtomicReference<>(RECEIVED);
    private static final Scripts SCRIPTS = new Scripts(
            new ScriptLimits(
                    Duration.ofMillis(500),
                    96,
                    2,
                    Duration.ofMinutes(1),
                    Duration.ofMinutes(2),
                    ScriptLimits.Use.INTAKE),
            NOW::get);

    @AfterAll
    static void end() {
        SCRIPTS.close();
    }

    @Test
    void givesAScriptBytesPortAndTimeAsTheApiSays() {
        Decoded decoded = decode("""
                function decodeUplink(input) {
                  return {
                    data: { sum: input.bytes.reduce((a, b) => a + b, 0), port: input.fPort, list: Array.isArray(input.bytes),
                            at: input.recvTime.toISOString(), date: input.recvTime instanceof Date },
                    warnings: ['battery low']
                  };
                }""", 1, 2, 255);

        assertThat(decoded.errors()).isEmpty();
        assertThat(decoded.warnings()).containsExactly("battery low");
        assertThat(decoded.data())
                .isEqualTo(Map.of(
                        "sum", 258.0, "port", 7.0, "list", true, "at", "2026-04-12T03:20:00.000Z", "date", true));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '^', textBlock = """
            classes             | class R { #b; constructor(b) { this.#b = b; } get v() { return this.#b[0]; } } return { data: { v: new R(input.bytes).v } };
            const in for-of     | let v = 0; for (const b of input.bytes) { const twice = b * 2; v += twice; } return { data: { v: v - 5 } };
            closures in loops   | const fs = []; for (let i = 0; i < 3; i++) fs.push(() => i); return { data: { v: fs[0]() + 1 } };
            destructuring       | const f = ({ bytes: [first, ...rest] }) => first * rest.length; return { data: { v: f(input) } };
            spread              | const o = { ...{ v: 0 }, ...{ v: Math.min(...input.bytes) } }; return { data: o };
            generators          | function* g() { yield 1; } return { data: { v: [...g()][0] } };
            BigInt              | return { data: { v: BigInt.asIntN(8, 257n) } };
            DataView            | const d = new DataView(new Uint8Array(input.bytes).buffer); return { data: { v: d.getUint8(0) } };
            optional chaining   | return { data: { v: input?.bytes?.[0] ?? 9 } };
            old style           | var out = {}; for (var i = 0; i < input.bytes.length; i++) { if (i == 0) { out['v'] = input.bytes[i] << 0; } } return { 'data': out };
            """)
    void runsEcmaScriptAsVendorsWriteIt(String feature, String body) {
        Decoded decoded = decode("function decodeUplink(input) { " + body + " }", 1, 2);

        assertThat(decoded.errors()).as(feature).isEmpty();
        assertThat(decoded.data()).as(feature).isEqualTo(Map.of("v", 1.0));
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "const decodeUplink = (input) => ({ data: { v: 1 } });",
                "module.exports = { decodeUplink: function (input) { return { data: { v: 1 } }; } };",
                "exports.decodeUplink = (input) => ({ data: { v: 1 } });"
            })
    void findsTheFunctionHoweverItIsDeclared(String script) {
        assertThat(decode(script).data()).isEqualTo(Map.of("v", 1.0));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            function decodeUplink(input) {\\n  return input.missing.length;\\n}    | line 2
            function decodeUplink(input) { return { data: ;                        | SyntaxError
            var x = 1;                                                             | it has no function `decodeUplink`
            function decodeUplink(input) { throw new Error('too short'); }         | line 1
            function decodeUplink(input) { return { errors: ['too short'] }; }     | too short
            function decodeUplink(input) { return 5; }                             | it returns 5, an object was expected
            function decodeUplink(input) { return { temperature: 1 }; }            | it returns neither `data`
            function decodeUplink(input) { return { data: Buffer.from([1]) }; }    | Buffer belongs to browsers or servers
            async function decodeUplink(input) { return { data: {} }; }            | a codec answers at once
            """)
    void saysWhatIsWrongAndWhere(String script, String error) {
        Decoded decoded = decode(script.replace("\\n", "\n"));

        assertThat(decoded.errors()).singleElement().asString().contains(error);
    }

    @Test
    void leavesOutWhatIsNoNumberAndSaysSo() {
        Decoded decoded =
                decode("function decodeUplink() { return { data: { a: NaN, b: 1, c: 1/0, d: undefined } }; }");

        assertThat(decoded.data()).isEqualTo(Map.of("b", 1.0));
        assertThat(decoded.warnings())
                .containsExactly(
                        "`a` is NaN, which is no value, and left out",
                        "`c` is Infinity, which is no value, and left out");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "Java.type('java.lang.System').exit(1)",
                "Polyglot.eval('js', '1')",
                "load('/etc/passwd')",
                "Packages.java.lang.System.exit(1)",
                "Graal.versionGraalVM",
                "new Worker('x')",
                "require('fs')"
            })
    void reachesNothingOfTheHost(String attempt) {
        Decoded decoded = decode("function decodeUplink() { return { data: { v: " + attempt + " } }; }");

        assertThat(decoded.errors()).singleElement().asString().containsAnyOf("Error:", "belongs to");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '^', textBlock = """
            an endless loop       | while (true) {}
            one that catches all  | while (true) { try { while (true) {} } catch (e) {} finally { continue; } }
            a caught recursion    | function f() { try { f(); } catch (e) { f(); } finally { f(); } } f();
            memory                | const a = []; while (true) a.push(new Array(1000).fill(a.length));
            a giant buffer        | const a = []; while (true) a.push(new Uint8Array(1 << 26));
            """)
    void isStoppedWithinItsBounds(String what, String body) {
        CodecUnavailable stopped = unavailable("function decodeUplink() { " + body + " }");

        assertThat(stopped.stopped()).as(what).isTrue();
        assertThat(stopped).as(what).hasMessageEndingWith("and was stopped");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '^', textBlock = """
            deep recursion       | function f(n) { return f(n + 1) + 1; } return { data: { v: f(0) } };
            a giant string       | return { data: { v: 'x'.repeat(2 ** 31) } };
            a long answer        | return { data: { v: 'x'.repeat(2 ** 21) } };
            a hard expression    | return { data: { v: /^(a+)+$/.test('a'.repeat(40) + '!') ? 1 : 0, w: /(x+x+)+\\1y/.test('x'.repeat(40)) } };
            """)
    void endsWithAnErrorOrAResultAndNeverHangs(String what, String body) {
        try {
            Decoded decoded = run("function decodeUplink() { " + body + " }");
            assertThat(decoded.errors().size() + decoded.data().size()).as(what).isPositive();
        } catch (CodecUnavailable e) {
            assertThat(e.stopped()).as(what).isTrue();
        }
        assertThat(decode("function decodeUplink() { return { data: { v: 1 } }; }")
                        .data())
                .isEqualTo(Map.of("v", 1.0));
    }

    @Test
    void aScriptThatHangsKeepsNoOtherFromItsResult() {
        String good = "function decodeUplink(input) { return { data: { good: input.bytes[0] } }; }";
        CompletableFuture<CodecUnavailable> bad = CompletableFuture.supplyAsync(
                () -> unavailable("function decodeUplink() { /* hangs beside others */ while (true) {} }"));
        List<CompletableFuture<Decoded>> others = java.util.stream.IntStream.range(0, 20)
                .mapToObj(i -> CompletableFuture.supplyAsync(() -> decode(good, i)))
                .toList();

        for (int i = 0; i < others.size(); i++) {
            assertThat(others.get(i).join().data()).isEqualTo(Map.of("good", (double) i));
        }
        assertThat(bad.join()).hasMessage("it used more than 500 ms of processor time and was stopped");
    }

    @Test
    void aScriptThatIsStoppedAgainAndAgainRestsAndThenMayTryAgain() {
        String script =
                "let n = 0; function decodeUplink(input) { if (input.bytes[0]) while (true) {} return { data: { v: 1 } }; }";
        assertThat(unavailable(script, 1)).hasMessageEndingWith("and was stopped");
        assertThat(unavailable(script, 1)).hasMessageEndingWith("and was stopped");

        CodecUnavailable resting = unavailable(script, 0);
        assertThat(resting.stopped()).isFalse();
        assertThat(resting)
                .hasMessage(
                        "it was stopped 2 times in a row (it used more than 500 ms of processor time) and rests for "
                                + "60 s, or until it is changed");
        assertThat(decode(script + " // mended", 0).data()).isEqualTo(Map.of("v", 1.0));

        NOW.set(RECEIVED.plus(Duration.ofMinutes(2)));
        assertThat(decode(script, 0).data()).isEqualTo(Map.of("v", 1.0));
        NOW.set(RECEIVED);
    }

    @Test
    void oneScriptSeesNothingOfAnother() {
        decode("Array.prototype.map = null; JSON.parse = null; globalThis.seen = 1;"
                + " function decodeUplink() { return { data: { v: 1 } }; }");

        assertThat(decode(
                                "function decodeUplink(input) { return { data: { v: input.bytes.map(b => b)[0], s: typeof seen } }; }",
                                5)
                        .data())
                .isEqualTo(Map.of("v", 5.0, "s", "undefined"));
    }

    @Test
    void encodesDownlinksAndDecodesThemBack() throws CodecUnavailable {
        Script script = new Script("""
                function encodeDownlink(input) { return { bytes: [input.data.level, 1], fPort: 9, warnings: [] }; }
                function decodeDownlink(input) { return { data: { level: input.bytes[0] } }; }
                """);

        assertThat(SCRIPTS.encodeDownlink(script, Map.of("level", 3)).bytes()).containsExactly(3, 1);
        assertThat(SCRIPTS.encodeDownlink(script, Map.of("level", 3)).port()).isEqualTo(9);
        assertThat(SCRIPTS.encodeDownlink(script, Map.of("level", 300)).errors())
                .containsExactly("bytes[0] is 300, a whole number of 0 to 255 was expected");
        assertThat(SCRIPTS.decodeDownlink(script, new byte[] {4}, 9).data()).isEqualTo(Map.of("level", 4.0));
    }

    /** As on a machine that is busy with other things: the call waits for a processor longer than it may use one. */
    @Test
    void aCallIsNotStoppedForTheTimeOthersTake() throws Exception {
        String script = "function decodeUplink(input) { let n = 0; for (let i = 0; i < 2e5; i++) n += i % 7; return"
                + " { data: { n } }; }";
        Decoded alone = decode(script);
        List<Process> others = new ArrayList<>();
        try {
            for (int i = 0; i < 10 * Runtime.getRuntime().availableProcessors(); i++) {
                others.add(new ProcessBuilder("sh", "-c", "while :; do :; done").start());
            }
            for (int i = 0; i < 8; i++) {
                assertThat(decode(script)).isEqualTo(alone);
            }
        } finally {
            others.forEach(Process::destroyForcibly);
        }
    }

    @Test
    void aProcessThatDoesNotStartIsNoFaultOfTheScript() {
        System.setProperty("holtra.scripts", "/nowhere");
        try (Scripts scripts = new Scripts(ScriptLimits.USUAL, NOW::get)) {
            Script script = new Script("function decodeUplink() {}");
            assertThatExceptionOfType(CodecUnavailable.class)
                    .isThrownBy(() -> scripts.decodeUplink(script, new byte[0], 1, RECEIVED))
                    .withMessageStartingWith("the process that runs scripts cannot be started: ")
                    .matches(e -> !e.stopped());
        } finally {
            System.clearProperty("holtra.scripts");
        }
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "Array.prototype.toJSON = function () { return 'x'; };",
                "Array.prototype.toJSON = function () { return undefined; };",
                "Object.prototype.toJSON = function () { return undefined; };",
                "Object.prototype.toJSON = function () { return [1, 2, 3]; };",
                "Object.prototype.toJSON = function () { throw 1; };",
                "Object.defineProperty(Array.prototype, '0', { set: function () { throw 2; } });",
                "Object.defineProperty(Array.prototype, '0', { set: function () {}, get: function () { return 3; } });",
                "JSON.stringify = function () { return '7'; };",
                "Function.prototype.call = Function.prototype.apply = null;",
            })
    void aScriptThatChangesTheBuiltInObjectsHarmsNobodyButItself(String change) {
        String body = "function decodeUplink(input) { return { data: { v: input.bytes, n: NaN } }; }";
        Decoded decoded = decode(change + body, 5, 6);

        assertThat(decoded.errors().isEmpty() || decoded.data().isEmpty()).isTrue();
        assertThat(decode("function decodeUplink() { return { data: { v: 1 } }; }")
                        .data())
                .isEqualTo(Map.of("v", 1.0));
    }

    @Test
    void theProcessInheritsNothingThatIsSecret() throws Exception {
        try (Scripts scripts = new Scripts(ScriptLimits.BRIEF, NOW::get)) {
            Set<ProcessHandle> before = ProcessHandle.current().children().collect(Collectors.toSet());
            scripts.start();
            scripts.decodeUplink(
                    new Script("function decodeUplink() { return { data: {} }; }"), new byte[0], 1, RECEIVED);
            ProcessHandle child = ProcessHandle.current()
                    .children()
                    .filter(process -> !before.contains(process))
                    .findFirst()
                    .orElseThrow();
            Confinement confinement = scripts.confinement().orElseThrow();
            Path facts = Path.of("/proc", Long.toString(child.pid()));

            assertThat(Files.readString(facts.resolve("environ")).split("\0"))
                    .allMatch(variable -> variable.startsWith("PATH="));
            assertThat(Files.readAllLines(facts.resolve("status")).stream().filter(line -> line.startsWith("Uid:")))
                    .allMatch(line -> !confinement.user() || line.contains("65534"));
            assertThat(Files.readAllLines(facts.resolve("net/dev")).stream().filter(line -> line.contains(":")))
                    .allMatch(line -> !confinement.network() || line.strip().startsWith("lo:"));
        }
    }

    @Test
    void whoCallsButOnceStartsOneProcess() throws CodecUnavailable {
        Set<ProcessHandle> before = ProcessHandle.current().children().collect(Collectors.toSet());
        try (Scripts scripts = new Scripts(ScriptLimits.BRIEF, NOW::get)) {
            scripts.start();
            Script script = new Script("function decodeUplink() { return { data: { v: 1 } }; }");
            assertThat(scripts.decodeUplink(script, new byte[0], 1, RECEIVED).data())
                    .isEqualTo(Map.of("v", 1.0));
            assertThat(ProcessHandle.current().children().filter(process -> !before.contains(process)))
                    .hasSize(1);
        }
    }

    private static Decoded decode(String script, int... bytes) {
        try {
            return run(script, bytes);
        } catch (CodecUnavailable e) {
            throw new AssertionError(e);
        }
    }

    private static CodecUnavailable unavailable(String script, int... bytes) {
        try {
            throw new AssertionError("it ran, and gave " + run(script, bytes));
        } catch (CodecUnavailable e) {
            return e;
        }
    }

    private static Decoded run(String script, int... bytes) throws CodecUnavailable {
        byte[] payload = new byte[bytes.length];
        for (int i = 0; i < bytes.length; i++) {
            payload[i] = (byte) bytes[i];
        }
        return SCRIPTS.decodeUplink(new Script(script), payload, 7, RECEIVED);
    }
}
