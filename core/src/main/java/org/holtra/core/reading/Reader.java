package org.holtra.core.reading;

import dev.cel.common.values.CelByteString;
import java.util.Base64;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Message;
import org.holtra.core.message.MessageType;
import org.holtra.core.message.Origin;
import org.holtra.core.message.Reading;
import org.holtra.core.reading.codec.Codec;
import org.holtra.core.reading.codec.Decoded;
import org.holtra.core.reading.content.CodecUnavailable;
import org.holtra.core.reading.content.Format;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Inlet;

/**
 * Reads arrivals, in two steps: {@link #open} reads the content and tells who sent it; {@link #finish}, with what is
 * known of that device, decodes the payload and tells when it was measured.
 */
public final class Reader {

    private final Decoding decoding;

    public Reader(Decoding decoding) {
        this.decoding = decoding;
    }

    /** Whether the arrival is a simulated device's, as far as that can be told when it cannot be read. */
    public static boolean simulated(Arrival arrival, Inlet inlet) {
        return holds(inlet.identity().simulated(), new Scope(Map.of(), Meta.of(arrival), Map.of()));
    }

    /** Whether its inlet only counts it. Content that cannot be read is never ignored. */
    public static boolean ignores(Arrival arrival, Inlet inlet) {
        Condition ignore = inlet.contents().ignore();
        if (ignore == null) {
            return false;
        }
        try {
            return ignore.holds(new Scope(content(arrival, inlet), Meta.of(arrival), Map.of()));
        } catch (UnreadableContent e) {
            return false;
        }
    }

    /** @throws UnreadableContent saying what could not be read, where, and what was expected */
    public Opened open(Arrival arrival, Inlet inlet) throws UnreadableContent {
        Scope scope = new Scope(content(arrival, inlet), Meta.of(arrival), Map.of());
        Inlet.Identity identity = inlet.identity();
        boolean simulated = holds(identity.simulated(), scope);
        try {
            String device = identity.device() == null
                    ? null
                    : DeviceKey.of(value(identity.device(), scope, "the device"), identity.hexadecimal());
            return new Opened(
                    arrival,
                    inlet,
                    new Origin(device, type(identity.type(), scope), simulated, sequence(identity.sequence(), scope)),
                    scope);
        } catch (UnreadableContent e) {
            throw simulated ? new UnreadableContent(e.getMessage(), true) : e;
        }
    }

    /** The content as it was sent. A part is JSON, whatever the whole was. */
    static Object content(Arrival arrival, Inlet inlet) throws UnreadableContent {
        Format format = arrival.isPart() ? Format.JSON : inlet.contents().format();
        return (format == null ? Format.ofContentType(arrival.contentType()) : format).parse(arrival.body());
    }

    public Reading finish(Opened opened, Known known) {
        Map<String, Object> meta = new LinkedHashMap<>();
        opened.inlet().contents().meta().forEach((name, expression) -> {
            if (expression.evaluate(opened.scope()) instanceof Outcome.Value(Object value)) {
                meta.put(name, value);
            }
        });
        try {
            Decoded decoded = decode(opened, known);
            Object data = opened.scope().data();
            String note = null;
            Inlet.PlainValue value = opened.inlet().contents().value();
            if (decoded == null && value != null) {
                data = PlainContent.named(value, opened.scope(), known.model());
            }
            if (decoded != null) {
                meta.put(Meta.ENVELOPE, data);
                data = decoded.data();
                note = decoded.warnings().isEmpty() ? null : String.join("; ", decoded.warnings());
            }
            if (known.model() != null) {
                ChannelFields.Made made = ChannelFields.of(data, known.model().channels());
                data = made.data();
                note = joined(note, made.notes().isEmpty() ? null : String.join("; ", made.notes()));
            }
            Timekeeper.Measured measured = Timekeeper.measured(opened, known);
            if (measured.clock() != null) {
                meta.put(Meta.CLOCK, measured.clock());
            }
            return new Reading.Read(new Message(
                    opened.arrival(), opened.origin(), measured.at(), data, meta, joined(note, measured.note())));
        } catch (CodecUnavailable e) {
            return new Reading.Deferred(opened.arrival(), e.getMessage(), opened.origin(), e.stopped());
        } catch (UnreadableContent e) {
            return new Reading.Unreadable(opened.arrival(), e.getMessage(), opened.origin());
        }
    }

    private static String joined(String note, String more) {
        return note == null ? more : more == null ? note : note + "; " + more;
    }

    /** Null if there is no payload to decode, or nothing to decode it with. */
    private Decoded decode(Opened opened, Known known) throws UnreadableContent {
        Inlet.Payload payload = opened.inlet().contents().payload();
        Codec codec = known.model() != null && known.model().codec() != null
                ? known.model().codec()
                : payload == null ? null : payload.codec();
        byte[] bytes = payload == null ? body(opened, codec) : bytes(payload, opened);
        if (bytes == null || codec == null) {
            return null;
        }
        Integer port = payload == null ? null : port(payload.port(), opened.scope());
        Decoded decoded;
        try {
            decoded = decoding.decode(codec, bytes, port, opened.arrival().received());
        } catch (CodecUnavailable e) {
            throw new CodecUnavailable("the codec" + of(known) + " cannot be run: " + e.getMessage(), e.stopped());
        }
        if (!decoded.errors().isEmpty()) {
            throw new UnreadableContent(
                    "the codec" + of(known) + " cannot decode " + HexFormat.of().formatHex(bytes)
                            + (port == null ? "" : " on port " + port) + ": " + String.join("; ", decoded.errors()));
        }
        return decoded;
    }

    private static String of(Known known) {
        return known.model() != null && known.model().codec() != null
                ? " of model " + known.model().name()
                : " of the inlet";
    }

    /** Without a payload in it, a content of plain bytes is the payload. */
    private static byte[] body(Opened opened, Codec codec) {
        Format format = opened.inlet().contents().format();
        Format read = format == null ? Format.ofContentType(opened.arrival().contentType()) : format;
        return codec != null && read == Format.BYTES ? opened.arrival().body() : null;
    }

    /** Null if the content has no payload, as messages about a device often have none. */
    private static byte[] bytes(Inlet.Payload payload, Opened opened) throws UnreadableContent {
        if (!(payload.bytes().evaluate(opened.scope()) instanceof Outcome.Value(Object value))
                || Plain.of(value) == null) {
            return null;
        }
        if (value instanceof CelByteString bytes) {
            return bytes.toByteArray();
        }
        String text = Plain.text(value).strip();
        try {
            return payload.encoding().equals("hex")
                    ? HexFormat.of().parseHex(text.replaceAll("[\\s:]", ""))
                    : Base64.getDecoder().decode(text.replace('-', '+').replace('_', '/'));
        } catch (IllegalArgumentException e) {
            throw new UnreadableContent(
                    "the payload " + Plain.brief(text) + " is not " + payload.encoding() + ": " + e.getMessage());
        }
    }

    private static Integer port(Expression expression, Scope scope) {
        Number port = number(expression, scope);
        return port == null ? null : (Integer) port.intValue();
    }

    private static Long sequence(Expression expression, Scope scope) {
        Number sequence = number(expression, scope);
        return sequence == null ? null : (Long) sequence.longValue();
    }

    private static Number number(Expression expression, Scope scope) {
        return expression != null
                        && expression.evaluate(scope) instanceof Outcome.Value(Object value)
                        && value instanceof Number number
                ? number
                : null;
    }

    private static boolean holds(Condition condition, Scope scope) {
        return condition != null && condition.holds(scope);
    }

    private static MessageType type(Expression expression, Scope scope) throws UnreadableContent {
        if (expression == null) {
            return MessageType.READING;
        }
        Object value = value(expression, scope, "the type");
        Optional<MessageType> type = value instanceof String word ? MessageType.of(word) : Optional.empty();
        return type.orElseThrow(() -> new UnreadableContent(
                "the type is " + Plain.brief(value) + ", one of " + MessageType.words() + " was expected"));
    }

    private static Object value(Expression expression, Scope scope, String what) throws UnreadableContent {
        return switch (expression.evaluate(scope)) {
            case Outcome.Value(Object value) -> value;
            case Outcome.None(String reason, boolean missing) ->
                throw new UnreadableContent(what + " could not be told: " + reason);
        };
    }
}
