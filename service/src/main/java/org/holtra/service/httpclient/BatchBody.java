package org.holtra.service.httpclient;

import java.io.ByteArrayOutputStream;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Optional;

/** How the contents of several deliveries stand together in one body. */
public enum BatchBody {
    /** A JSON array. */
    LIST("list"),
    /** A line each. */
    LINES("lines");

    private final String word;

    BatchBody(String word) {
        this.word = word;
    }

    public static List<String> words() {
        return List.of(values()).stream().map(body -> body.word).toList();
    }

    /** @param word null for the usual */
    public static BatchBody of(String word) {
        return List.of(values()).stream()
                .filter(body -> body.word.equals(word))
                .findFirst()
                .orElse(LIST);
    }

    /** Why a content cannot stand in a batch, in a sentence; empty if it can. */
    public Optional<String> whyNot(String contentType, byte[] body) {
        if (this == LIST && !isJson(contentType)) {
            return Optional.of("its outlet sends JSON arrays, and the lane's shape makes "
                    + (contentType == null ? "no body" : contentType));
        }
        if (this == LINES && new String(body, 0, lineEnd(body), StandardCharsets.ISO_8859_1).indexOf('\n') >= 0) {
            return Optional.of("its outlet sends a line each, and what the lane's shape made has a line break");
        }
        return Optional.empty();
    }

    private static boolean isJson(String contentType) {
        return contentType != null && contentType.matches("(?i)application/([\\w.-]+\\+)?json\\b.*");
    }

    /** Where its last line ends, without the break that may stand there. */
    private static int lineEnd(byte[] body) {
        int end = body.length;
        if (end > 0 && body[end - 1] == '\n') {
            end--;
        }
        return end > 0 && body[end - 1] == '\r' ? end - 1 : end;
    }

    public byte[] join(List<byte[]> bodies) {
        ByteArrayOutputStream joined = new ByteArrayOutputStream();
        boolean list = this == LIST;
        for (int i = 0; i < bodies.size(); i++) {
            if (list) {
                joined.write(i == 0 ? '[' : ',');
            }
            byte[] body = bodies.get(i);
            joined.write(body, 0, list ? body.length : lineEnd(body));
            if (!list) {
                joined.write('\n');
            }
        }
        if (list) {
            joined.write(']');
        }
        return joined.toByteArray();
    }

    /** The content type of a batch of contents of this one. */
    public String contentType(String ofOne) {
        return this == LINES && isJson(ofOne) ? "application/x-ndjson" : ofOne;
    }
}
