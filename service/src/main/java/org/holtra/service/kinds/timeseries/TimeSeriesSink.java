package org.holtra.service.kinds.timeseries;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.holtra.core.delivery.Verdict;
import org.holtra.core.shape.Content;
import org.holtra.service.dispatch.Attempted;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.Request;
import org.holtra.service.dispatch.Sink;

/**
 * Writes points as lines. Of a request that is refused, halves are tried until the line at fault stands alone: to write a point
 * once more changes nothing.
 */
final class TimeSeriesSink implements Sink {

    private static final String LINES = "text/plain; charset=utf-8";

    private final LineFormat format;
    private final Sink http;

    /** @param http sends one body */
    TimeSeriesSink(LineFormat format, Sink http) {
        this.format = format;
        this.http = http;
    }

    @Override
    public boolean keepsOrderWithin() {
        return true;
    }

    @Override
    public Optional<String> whyNotTogether(Content content) {
        try {
            format.lines(content.body());
            return Optional.empty();
        } catch (IllegalArgumentException e) {
            return Optional.of(e.getMessage());
        }
    }

    @Override
    public Attempted attempt(Request request) {
        Request written;
        try {
            written = written(request);
        } catch (IllegalArgumentException e) {
            return Attempted.unanswered(
                    new Verdict.Refused(e.getMessage()), "no line", new Exchange("nothing was sent", Map.of()));
        }
        return http.attempt(written);
    }

    /** All in one body; their keys, which may be hundreds, are no business of a database. */
    private Request written(Request request) {
        Content first = request.content();
        String lines = request.parts().stream()
                .map(part -> format.lines(part.content().body()))
                .collect(Collectors.joining("\n"));
        Content content = new Content(first.envelope(), LINES, lines.getBytes(StandardCharsets.UTF_8));
        return new Request(
                List.of(new Request.Part(content, request.idempotencyKey())),
                false,
                request.idempotencyKey(),
                request.traceparent(),
                request.attempt(),
                request.marks(),
                request.presented());
    }

    @Override
    public Exchange preview(Request request) {
        return http.preview(written(request));
    }

    @Override
    public void close() {
        http.close();
    }
}
