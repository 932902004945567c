package org.holtra.service.api;

import com.fasterxml.jackson.annotation.JsonUnwrapped;
import java.security.Principal;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.holtra.core.expression.Plain;
import org.holtra.core.reading.codec.Codec;
import org.holtra.core.reading.codec.Decoded;
import org.holtra.core.reading.codec.PastedBytes;
import org.holtra.core.reading.codec.Script;
import org.holtra.core.reading.content.CodecUnavailable;
import org.holtra.core.setup.FieldSpec;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.PointSpec;
import org.holtra.core.setup.compile.CodecText;
import org.holtra.core.setup.document.SetupEdit;
import org.holtra.core.setup.document.SetupProblem;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.devices.FieldDescription;
import org.holtra.service.devices.FieldDescriptions;
import org.holtra.service.devices.FieldsSeen;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.SetupRefused;
import org.holtra.service.setups.SetupRevision;
import org.holtra.service.setups.Setups;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** Models, and the bench on which codecs are tried. */
@RestController
@RequestMapping("/api/v1")
class ModelController {

    /**
     * @param codec {@code script}, {@code layout}, or null
     * @param source the codec's text
     * @param devices how many there are
     */
    record ModelView(
            String name,
            String codec,
            String source,
            Map<String, FieldSpec> fields,
            Map<String, PointSpec> points,
            Map<String, Object> facts,
            String silentAfter,
            long devices,
            List<FieldsSeen.Field> seen) {}

    /**
     * @param type {@code script} or {@code layout}
     * @param source its text
     * @param bytes in hexadecimal or base64
     * @param port null for none
     * @param time when they were received; now if null
     */
    record Trial(String type, String source, String bytes, Integer port, Instant time) {}

    /** @param problems of the codec itself, at its lines; then there is nothing else */
    record TrialResult(
            List<SetupProblem> problems,
            String bytes,
            Map<String, Object> data,
            List<String> warnings,
            List<String> errors,
            long micros) {}

    record Attachment(String type, String source, String note) {}

    private final Setups setups;
    private final DeviceRegistry devices;
    private final FieldsSeen fields;
    private final FieldDescriptions descriptions;
    private final Readings readings;
    private final InstantSource clock;

    ModelController(
            Setups setups,
            DeviceRegistry devices,
            FieldsSeen fields,
            FieldDescriptions descriptions,
            Readings readings,
            InstantSource clock) {
        this.descriptions = descriptions;
        this.setups = setups;
        this.devices = devices;
        this.fields = fields;
        this.readings = readings.forTries();
        this.clock = clock;
    }

    /** The models of the active setup. */
    @GetMapping("/models")
    List<ModelView> list() {
        SetupEdit text = new SetupEdit(yaml());
        Map<String, Long> counts = devices.all().stream()
                .filter(device -> device.model() != null)
                .collect(Collectors.groupingBy(Device::model, Collectors.counting()));
        return setups.current().models().values().stream()
                .map(model -> view(model, text, counts))
                .toList();
    }

    private ModelView view(Model model, SetupEdit text, Map<String, Long> counts) {
        return new ModelView(
                model.name(),
                model.codec() == null ? null : model.codec() instanceof Script ? "script" : "layout",
                text.codec(model.name()).orElse(null),
                model.fields(),
                model.points(),
                model.facts(),
                model.silentAfter() == null ? null : model.silentAfter().toString(),
                counts.getOrDefault(model.name(), 0L),
                fields.all().filter(field -> field.model().equals(model.name())).toList());
    }

    /** @param described what its sender says of it; null if it says nothing */
    record SeenField(@JsonUnwrapped FieldsSeen.Field field, FieldDescription described) {}

    /** What fields were really seen, on all inlets. */
    @GetMapping("/fields")
    List<SeenField> fields() {
        return fields.all()
                .map(field -> new SeenField(
                        field, descriptions.of(field.inlet(), field.name()).orElse(null)))
                .toList();
    }

    /** @param revision of the setup with the codec */
    record Attached(int revision) {}

    /** Puts a codec into a model, which is made if there is none of that name, as a new revision of the setup. */
    @PutMapping("/models/{name}/codec")
    Attached attach(@PathVariable String name, @RequestBody Attachment codec, Principal principal) {
        if (!name.matches("[a-z][a-z0-9-]{0,62}")) {
            throw Problem.badRequest(
                    "name", "A model's name has lower-case letters, digits and dashes, and begins with a letter.");
        }
        String yaml;
        try {
            yaml = new SetupEdit(yaml()).withCodec(name, type(codec.type()), codec.source());
        } catch (IllegalArgumentException e) {
            throw Problem.badRequest("name", e.getMessage() + ".");
        }
        String note = codec.note() == null || codec.note().isBlank() ? "codec of model " + name : codec.note();
        try {
            return new Attached(setups.adopt(yaml, principal.getName(), note, null, Setups.Waiting.REFUSE)
                    .revision());
        } catch (SetupRefused e) {
            throw Adoption.refused(e);
        }
    }

    /** Decodes bytes by a codec that need not be part of the setup. */
    @PostMapping("/codecs/try")
    TrialResult attempt(@RequestBody Trial trial) {
        CodecText.Result compiled = type(trial.type()).equals("script")
                ? CodecText.script(trial.source())
                : CodecText.layout(trial.source());
        Optional<Codec> codec = compiled.codec();
        byte[] bytes = bytes(trial.bytes() == null ? "" : trial.bytes());
        String hex = HexFormat.of().formatHex(bytes);
        if (codec.isEmpty()) {
            return new TrialResult(compiled.problems(), hex, Map.of(), List.of(), List.of(), 0);
        }
        long began = System.nanoTime();
        Decoded decoded;
        try {
            decoded = readings.decode(
                    codec.get(), bytes, trial.port(), trial.time() == null ? clock.instant() : trial.time());
        } catch (CodecUnavailable e) {
            decoded = Decoded.failed(e.getMessage());
        }
        long micros = (System.nanoTime() - began) / 1_000;
        Map<String, Object> data = new LinkedHashMap<>();
        decoded.data().forEach((name, value) -> data.put(name, Plain.of(value)));
        return new TrialResult(List.of(), hex, data, decoded.warnings(), decoded.errors(), micros);
    }

    private static String type(String word) {
        if (!"script".equals(word) && !"layout".equals(word)) {
            throw Problem.badRequest("type", "A codec is a script or a layout.");
        }
        return word;
    }

    private static byte[] bytes(String text) {
        try {
            return PastedBytes.parse(text);
        } catch (IllegalArgumentException e) {
            throw Problem.badRequest("bytes", "The bytes are neither hexadecimal nor base64: " + e.getMessage() + ".");
        }
    }

    private String yaml() {
        return setups.revision(setups.current().revision())
                .map(SetupRevision::yaml)
                .orElse("");
    }
}
