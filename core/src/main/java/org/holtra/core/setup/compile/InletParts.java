package org.holtra.core.setup.compile;

import java.time.DateTimeException;
import java.time.Duration;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.LinkedHashMap;
import java.util.Map;
import org.holtra.core.reading.content.Format;
import org.holtra.core.reading.time.TimeForm;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.document.SetupDocument;
import org.holtra.core.setup.schema.Kind;

/** Compiles inlets. */
public final class InletParts {

    private static final Duration USUAL_WINDOW = Duration.ofMinutes(10);

    private final Pieces pieces;
    private final ModelParts models;
    private final ConnectionParts connections;

    InletParts(Pieces pieces, ModelParts models, ConnectionParts connections) {
        this.pieces = pieces;
        this.models = models;
        this.connections = connections;
    }

    /** @param written as in a setup file */
    Inlet inlet(String name, Map<String, Object> written) {
        String at = "/inlets/" + name;
        String kind = Pieces.text(written, "kind");
        Map<String, Object> fields = new LinkedHashMap<>(
                connections.kind(kind).map(Kind::readingUnlessSaid).orElse(Map.of()));
        fields.putAll(written);
        Map<String, Object> settings = SetupDocument.block(fields.get("at"));
        return new Inlet(
                name,
                kind,
                Pieces.closed(fields),
                settings,
                connections.shared(kind, settings, at + "/at"),
                new Inlet.Contents(
                        Format.of(String.valueOf(fields.get("format"))).orElse(null),
                        payload(fields.get("payload"), at + "/payload"),
                        pieces.expressions(fields.get("meta"), at + "/meta"),
                        pieces.expression(fields, "parts", at),
                        plainValue(fields.get("value"), at + "/value"),
                        pieces.condition(fields, "ignore", at)),
                identity(fields, at),
                timing(fields, at),
                unknown(SetupDocument.block(fields.get("unknown")), at + "/unknown"));
    }

    /** The inlet of Holtra's own messages: alarms about itself. */
    Inlet own() {
        return inlet(
                Setup.OWN_INLET,
                Map.of("kind", "own", "format", "json", "type", "'alarm'", "time", "data.at", "at", Map.of()));
    }

    private Inlet.Payload payload(Object part, String at) {
        if (!(part instanceof Map<?, ?>)) {
            return null;
        }
        Map<String, Object> payload = SetupDocument.block(part);
        String encoding = Pieces.text(payload, "encoding");
        return new Inlet.Payload(
                pieces.expression(payload, "bytes", at),
                encoding == null ? "base64" : encoding,
                pieces.expression(payload, "port", at),
                models.codec(payload.get("codec"), at + "/codec", null));
    }

    private Inlet.PlainValue plainValue(Object part, String at) {
        if (!(part instanceof Map<?, ?>)) {
            return null;
        }
        Map<String, Object> value = SetupDocument.block(part);
        return new Inlet.PlainValue(pieces.expression(value, "field", at), pieces.expression(value, "point", at));
    }

    private Inlet.Identity identity(Map<String, Object> fields, String at) {
        Map<String, Object> duplicates = SetupDocument.block(fields.get("duplicates"));
        return new Inlet.Identity(
                pieces.expression(fields, "device", at),
                "hexadecimal".equals(fields.get("deviceIds")),
                pieces.expression(fields, "type", at),
                pieces.condition(fields, "simulated", at),
                pieces.expression(fields, "sequence", at),
                duplicates.containsKey("same")
                        ? new Inlet.Duplicates(
                                pieces.expression(duplicates, "same", at + "/duplicates"),
                                Pieces.span(duplicates, "within", USUAL_WINDOW))
                        : null);
    }

    private Inlet.Timing timing(Map<String, Object> fields, String at) {
        TimeForm form = TimeForm.of("rfc3339");
        String word = Pieces.text(fields, "timeForm");
        if (word != null) {
            try {
                form = TimeForm.of(word);
            } catch (IllegalArgumentException e) {
                pieces.wrong(
                        at + "/timeForm",
                        "neither rfc3339, seconds, millis, nanos nor a pattern such as yyyy-MM-dd HH:mm:ss: "
                                + e.getMessage());
            }
        }
        ZoneId zone = ZoneOffset.UTC;
        String named = Pieces.text(fields, "zone");
        if (named != null) {
            try {
                zone = ZoneId.of(named);
            } catch (DateTimeException e) {
                pieces.wrong(at + "/zone", "there is no time zone `" + named + "`");
            }
        }
        return new Inlet.Timing(pieces.expression(fields, "time", at), form, zone);
    }

    private Inlet.UnknownDevices unknown(Map<String, Object> fields, String at) {
        return new Inlet.UnknownDevices(
                !Boolean.FALSE.equals(fields.get("admit")),
                pieces.expression(fields, "model", at),
                pieces.expressions(fields.get("facts"), at + "/facts"));
    }
}
