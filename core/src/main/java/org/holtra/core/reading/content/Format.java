package org.holtra.core.reading.content;

import java.util.Arrays;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;

/** The formats content may come in. */
public enum Format {
    JSON(new JsonFormat()),
    NDJSON(new NdjsonFormat()),
    CBOR(new CborFormat()),
    FORM(new FormFormat()),
    CSV(new CsvFormat()),
    TEXT(new TextFormat()),
    XML(new XmlFormat()),
    /** Bytes for a codec; the content itself has no fields. */
    BYTES(body -> Map.of());

    /** Reads one format. It may be used by any thread. */
    @FunctionalInterface
    interface Parser {
        /** @throws UnreadableContent saying what is wrong and where */
        Object parse(byte[] body) throws UnreadableContent;
    }

    private final Parser parser;

    Format(Parser parser) {
        this.parser = parser;
    }

    public Object parse(byte[] body) throws UnreadableContent {
        try {
            return parser.parse(body);
        } catch (RuntimeException e) {
            // A parser that stumbles over bytes it did not foresee must not cost the message.
            throw new UnreadableContent("the body is not " + name() + ": the parser gave up with " + e);
        }
    }

    /**
     * Whether content of this media type may be read as this format: it is one of the format's own, or says nothing of what it
     * holds. Text says little, and is what simple senders call JSON and CSV.
     *
     * @param contentType null for none
     */
    public boolean takes(String contentType) {
        String type = bare(contentType);
        return switch (type) {
            case "", "application/octet-stream" -> true;
            case "text/plain" -> this == JSON || this == CSV || this == TEXT;
            case "application/json", "text/json" -> this == JSON;
            default -> ofContentType(type) == this && (this != JSON || type.endsWith("+json"));
        };
    }

    private static String bare(String contentType) {
        return contentType == null ? "" : contentType.split(";", 2)[0].strip().toLowerCase(Locale.ROOT);
    }

    public static Optional<Format> of(String word) {
        return Arrays.stream(values())
                .filter(format -> format.name().toLowerCase(Locale.ROOT).equals(word))
                .findFirst();
    }

    /** By a media type (RFC 9110, section 8.3.1), its parameters left aside; JSON where it tells nothing. */
    public static Format ofContentType(String contentType) {
        String type = bare(contentType);
        return switch (type) {
            case "application/cbor" -> CBOR;
            case "application/x-ndjson", "application/jsonl" -> NDJSON;
            case "application/x-www-form-urlencoded" -> FORM;
            case "text/csv" -> CSV;
            case "text/plain" -> TEXT;
            case "application/xml", "text/xml" -> XML;
            case "application/octet-stream" -> BYTES;
            default -> type.endsWith("+xml") ? XML : type.endsWith("+cbor") ? CBOR : JSON;
        };
    }
}
