package org.holtra.service.tracing;

import io.opentelemetry.api.common.AttributeKey;
import io.opentelemetry.api.trace.Span;
import io.opentelemetry.api.trace.SpanBuilder;
import io.opentelemetry.api.trace.SpanContext;
import io.opentelemetry.api.trace.SpanKind;
import io.opentelemetry.api.trace.StatusCode;
import io.opentelemetry.api.trace.TraceFlags;
import io.opentelemetry.api.trace.TraceState;
import io.opentelemetry.api.trace.Tracer;
import io.opentelemetry.context.Context;
import io.opentelemetry.exporter.otlp.http.trace.OtlpHttpSpanExporter;
import io.opentelemetry.sdk.resources.Resource;
import io.opentelemetry.sdk.trace.IdGenerator;
import io.opentelemetry.sdk.trace.SdkTracerProvider;
import io.opentelemetry.sdk.trace.export.BatchSpanProcessor;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.concurrent.TimeUnit;
import org.holtra.core.message.TraceContext;
import org.holtra.service.settings.HoltraSettings;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;

/**
 * Sends the journeys of messages to a collector of traces (OTLP over HTTP), where one is named: a span for each message, from when it
 * came until it was durable, and below it one for each attempt, whose id the destination got with the request. A help for those who watch
 * several systems at once, and no record: what the collector does not take is lost, and the log says so.
 */
@Component
public final class Journeys implements AutoCloseable {

    private static final long LONGEST_GOODBYE_SECONDS = 5;

    /**
     * An attempt of a delivery.
     *
     * @param span its id, as the destination got it
     * @param device null if the message is of none
     * @param reason null if it was delivered
     */
    public record Attempt(
            String span,
            String lane,
            String outlet,
            String device,
            int number,
            String verdict,
            String reason,
            String code,
            Instant at,
            long micros) {}

    /** A message that was kept. */
    public record Kept(String inlet, String device, String type, Instant came, Instant durable) {}

    /** Ids are those that messages and requests carry. The span that is started next on this thread has these. */
    private static final class OwnIds implements IdGenerator {

        private final ThreadLocal<String[]> next = new ThreadLocal<>();

        @Override
        public String generateTraceId() {
            return next.get()[0];
        }

        @Override
        public String generateSpanId() {
            return next.get()[1];
        }
    }

    private final OwnIds ids = new OwnIds();
    private final SdkTracerProvider provider;
    private final Tracer tracer;

    /** @param collector address that spans are posted to, such as {@code http://127.0.0.1:4318/v1/traces}; empty for none */
    Journeys(@Value("${holtra.traces-to:}") String collector, HoltraSettings settings) {
        provider = collector.isBlank() ? null : provider(collector, settings.node());
        tracer = provider == null ? null : provider.get("holtra");
    }

    private SdkTracerProvider provider(String collector, String node) {
        return SdkTracerProvider.builder()
                .setIdGenerator(ids)
                .setResource(Resource.builder()
                        .put("service.name", "holtra")
                        .put("service.instance.id", node)
                        .build())
                .addSpanProcessor(BatchSpanProcessor.builder(OtlpHttpSpanExporter.builder()
                                .setEndpoint(collector)
                                .build())
                        .build())
                .build();
    }

    /** Whether anybody is told; else there is no need to put anything together. */
    public boolean isOn() {
        return tracer != null;
    }

    public void kept(TraceContext trace, Kept message) {
        SpanBuilder builder = tracer.spanBuilder("message at " + message.inlet)
                .setSpanKind(SpanKind.SERVER)
                .setStartTimestamp(message.came)
                .setAttribute("holtra.inlet", message.inlet)
                .setAttribute("holtra.type", message.type);
        if (message.device != null) {
            builder.setAttribute("holtra.device", message.device);
        }
        started(builder, trace.trace(), trace.span(), trace.parent()).end(message.durable);
    }

    public void attempt(TraceContext trace, Attempt attempt) {
        SpanBuilder builder = tracer.spanBuilder("delivery by " + attempt.lane)
                .setSpanKind(SpanKind.CLIENT)
                .setStartTimestamp(attempt.at)
                .setAttribute("holtra.lane", attempt.lane)
                .setAttribute("holtra.outlet", attempt.outlet)
                .setAttribute(AttributeKey.longKey("holtra.attempt"), (long) attempt.number)
                .setAttribute("holtra.verdict", attempt.verdict);
        if (attempt.device != null) {
            builder.setAttribute("holtra.device", attempt.device);
        }
        if (attempt.code != null) {
            builder.setAttribute("holtra.code", attempt.code);
        }
        Span span = started(builder, trace.trace(), attempt.span, trace.span());
        if (attempt.reason != null) {
            span.setStatus(StatusCode.ERROR, attempt.reason);
        }
        span.end(attempt.at.plus(attempt.micros, ChronoUnit.MICROS));
    }

    /** @param parent null for none */
    private Span started(SpanBuilder builder, String trace, String span, String parent) {
        if (parent == null) {
            builder.setNoParent();
        } else {
            builder.setParent(Context.root()
                    .with(Span.wrap(SpanContext.createFromRemoteParent(
                            trace, parent, TraceFlags.getSampled(), TraceState.getDefault()))));
        }
        ids.next.set(new String[] {trace, span});
        try {
            return builder.startSpan();
        } finally {
            ids.next.remove();
        }
    }

    @Override
    public void close() {
        if (provider != null) {
            provider.shutdown().join(LONGEST_GOODBYE_SECONDS, TimeUnit.SECONDS);
        }
    }
}
