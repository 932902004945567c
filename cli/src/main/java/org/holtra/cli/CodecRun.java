package org.holtra.cli;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Plain;
import org.holtra.core.reading.codec.Codec;
import org.holtra.core.reading.codec.Decoded;
import org.holtra.core.reading.codec.Encoded;
import org.holtra.core.reading.codec.Layout;
import org.holtra.core.reading.codec.PastedBytes;
import org.holtra.core.reading.codec.Script;
import org.holtra.core.reading.content.CodecUnavailable;
import org.holtra.core.reading.content.JsonFormat;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.compile.CodecText;
import org.holtra.core.setup.document.SetupProblem;
import org.holtra.scripts.ScriptLimits;
import org.holtra.scripts.Scripts;
import picocli.CommandLine;
import tools.jackson.databind.SerializationFeature;

/** One run of a codec, with nothing but a file. */
final class CodecRun {

    private final CommandLine command;

    CodecRun(CommandLine command) {
        this.command = command;
    }

    /** @return the exit code */
    int decode(String file, String hex, Integer port, Instant received) throws IOException {
        byte[] bytes = bytes(hex);
        Decoded decoded;
        try (Scripts scripts = scripts(file)) {
            decoded = switch (codec(file)) {
                case null -> null;
                case Layout layout -> layout.decode(bytes, port);
                case Script script -> scripts.decodeUplink(script, bytes, port, received);
            };
        } catch (CodecUnavailable e) {
            decoded = Decoded.failed(e.getMessage());
        }
        if (decoded == null) {
            return Holtra.NOT_WELL;
        }
        Map<String, Object> result = new LinkedHashMap<>();
        result.put("data", Plain.of(decoded.data()));
        result.put("warnings", decoded.warnings());
        result.put("errors", decoded.errors());
        return print(result, decoded.errors());
    }

    /** @return the exit code */
    int encode(String file, String json, Integer port) throws IOException {
        Map<?, ?> data = object(json);
        Encoded encoded;
        try (Scripts scripts = scripts(file)) {
            encoded = switch (codec(file)) {
                case null -> null;
                case Layout layout -> layout.encode(data, port);
                case Script script -> scripts.encodeDownlink(script, data);
            };
        } catch (CodecUnavailable e) {
            encoded = Encoded.failed(e.getMessage());
        }
        if (encoded == null) {
            return Holtra.NOT_WELL;
        }
        Map<String, Object> result = new LinkedHashMap<>();
        result.put("bytes", encoded.errors().isEmpty() ? HexFormat.of().formatHex(encoded.bytes()) : null);
        result.put("fPort", encoded.port() == null ? port : encoded.port());
        result.put("warnings", encoded.warnings());
        result.put("errors", encoded.errors());
        return print(result, encoded.errors());
    }

    /** The process for scripts starts while the rest is read. */
    private static Scripts scripts(String file) {
        Scripts scripts = new Scripts(ScriptLimits.BRIEF, InstantSource.system());
        if (CodecCommands.isScript(file)) {
            scripts.start();
        }
        return scripts;
    }

    /** Null if it is no codec; that has been said then. */
    private Codec codec(String file) throws IOException {
        String source = new String(SetupCommands.read(file), StandardCharsets.UTF_8);
        CodecText.Result result = CodecCommands.isScript(file) ? CodecText.script(source) : CodecText.layout(source);
        if (result.codec().isEmpty()) {
            Map<String, Object> none = new LinkedHashMap<>();
            none.put("data", Map.of());
            none.put("warnings", List.of());
            none.put(
                    "errors",
                    result.problems().stream().map(SetupProblem::toString).toList());
            print(none, List.of(file));
        }
        return result.codec().orElse(null);
    }

    private int print(Map<String, Object> result, List<String> errors) {
        command.getOut()
                .println(Api.mapper()
                        .writer()
                        .with(SerializationFeature.INDENT_OUTPUT)
                        .writeValueAsString(result));
        command.getOut().flush();
        return errors.isEmpty() ? 0 : Holtra.NOT_WELL;
    }

    private byte[] bytes(String text) {
        try {
            return PastedBytes.parse(text);
        } catch (IllegalArgumentException e) {
            throw new CommandLine.ParameterException(
                    command, "`" + text + "` is neither hexadecimal nor base64: " + e.getMessage());
        }
    }

    private Map<?, ?> object(String json) {
        try {
            if (new JsonFormat().parse(json.getBytes(StandardCharsets.UTF_8)) instanceof Map<?, ?> object) {
                return object;
            }
            throw new UnreadableContent("an object was expected");
        } catch (UnreadableContent e) {
            throw new CommandLine.ParameterException(command, "The data cannot be read: " + e.getMessage());
        }
    }
}
