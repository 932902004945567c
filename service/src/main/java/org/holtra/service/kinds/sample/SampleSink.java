package org.holtra.service.kinds.sample;

import java.nio.charset.StandardCharsets;
import java.util.Map;
import org.holtra.core.delivery.Verdict;
import org.holtra.service.dispatch.Attempted;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.Request;
import org.holtra.service.dispatch.Sink;

/** Takes everything. */
final class SampleSink implements Sink {

    private static final byte[] ANSWER = "taken by a made-up destination".getBytes(StandardCharsets.US_ASCII);

    @Override
    public Attempted attempt(Request request) {
        return new Attempted(
                new Verdict.Delivered(), "taken", "taken", preview(request).answered(ANSWER));
    }

    @Override
    public Exchange preview(Request request) {
        return new Exchange("give to a made-up destination", Map.of());
    }

    @Override
    public void close() {
        // It holds nothing.
    }
}
