package org.holtra.service.kinds.timeseries;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
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

    /** @param http sends lines, joined by line breaks */
    TimeSeriesSink(LineFormat format, Sink http) {
        this.format = format;
        this.http = http;
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

    private Request written(Request request) {
        List<Request.Part> parts = new ArrayList<>();
        for (Request.Part part : request.parts()) {
            Content content = part.content();
            parts.add(new Request.Part(
                    new Content(content.envelope(), LINES, format.bytes(content.body())), part.idempotencyKey()));
        }
        return new Request(
                parts,
                request.isBatch(),
                request.idempotencyKey(),
                request.traceparent(),
                request.attempt(),
                request.marks());
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
