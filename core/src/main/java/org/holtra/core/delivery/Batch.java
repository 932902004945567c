package org.holtra.core.delivery;

import java.io.ByteArrayOutputStream;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.Outcome;

/**
 * How an outlet sends the contents of several deliveries as one.
 *
 * @param messages at most so many in one
 * @param bytes at most so many in one, unless a single content is longer
 * @param patience how long the first waits for others
 * @param answers gives, from the answer to a batch, a list with what became of each message in the order sent; null where
 *     the destination takes batches whole or not at all
 */
public record Batch(int messages, int bytes, Duration patience, Form form, Expression answers) {

    public static final int USUAL_MESSAGES = 100;
    public static final int USUAL_BYTES = 256 * 1024;
    public static final Duration USUAL_PATIENCE = Duration.ofSeconds(1);

    private static final String STATUS = "status";

    /** How contents stand together. */
    public enum Form {
        /** A JSON array. */
        LIST("list"),
        /** A line each. */
        LINES("lines");

        private final String word;

        Form(String word) {
            this.word = word;
        }

        public String word() {
            return word;
        }

        public static Optional<Form> of(String word) {
            return List.of(values()).stream()
                    .filter(form -> form.word.equals(word))
                    .findFirst();
        }
    }

    /** Why a content cannot stand in a batch, in a sentence; empty if it can. */
    public Optional<String> whyNot(String contentType, byte[] body) {
        if (form == Form.LIST && !isJson(contentType)) {
            return Optional.of("its outlet sends JSON arrays, and the lane's shape makes "
                    + (contentType == null ? "no body" : contentType));
        }
        if (form == Form.LINES && new String(body, 0, lineEnd(body), StandardCharsets.ISO_8859_1).indexOf('\n') >= 0) {
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

    /** The body of a batch. */
    public byte[] join(List<byte[]> bodies) {
        ByteArrayOutputStream joined = new ByteArrayOutputStream();
        boolean list = form == Form.LIST;
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
        return form == Form.LINES && isJson(ofOne) ? "application/x-ndjson" : ofOne;
    }

    /**
     * What the answer to a batch says of each of its messages: the entry is its body, and a number {@code status} in it
     * stands for the answer's own. Empty if it says that of fewer or more.
     */
    public Optional<List<Answer>> each(Answer whole, int count) {
        if (!(answers.evaluate(whole.scope()) instanceof Outcome.Value(Object value))
                || !(value instanceof List<?> entries)
                || entries.size() != count) {
            return Optional.empty();
        }
        List<Answer> each = new ArrayList<>();
        for (Object entry : entries) {
            each.add(new Answer(status(entry).orElse(whole.status()), whole.headers(), entry));
        }
        return Optional.of(each);
    }

    private static Optional<Integer> status(Object entry) {
        return entry instanceof Map<?, ?> map && map.get(STATUS) instanceof Number number
                ? Optional.of(number.intValue()).filter(status -> status >= 100 && status < 600)
                : Optional.empty();
    }

    private String answersSource() {
        return answers == null ? null : answers.source();
    }

    /** Batches that are written the same are the same, compiled once or twice. */
    @Override
    public boolean equals(Object other) {
        return other instanceof Batch that
                && List.of(messages, bytes, patience, form, String.valueOf(answersSource()))
                        .equals(List.of(
                                that.messages,
                                that.bytes,
                                that.patience,
                                that.form,
                                String.valueOf(that.answersSource())));
    }

    @Override
    public int hashCode() {
        return List.of(messages, bytes, patience, form).hashCode();
    }
}
