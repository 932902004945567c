package org.holtra.service.httpclient;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.Locale;
import java.util.Map;
import org.apache.hc.client5.http.classic.methods.HttpUriRequestBase;
import org.apache.hc.client5.http.protocol.HttpClientContext;
import org.apache.hc.core5.http.ContentType;
import org.apache.hc.core5.http.EntityDetails;
import org.apache.hc.core5.http.Header;
import org.apache.hc.core5.http.HttpException;
import org.apache.hc.core5.http.HttpRequest;
import org.apache.hc.core5.http.io.entity.ByteArrayEntity;
import org.apache.hc.core5.http.protocol.HttpContext;
import org.apache.hc.core5.http.protocol.HttpProcessor;
import org.apache.hc.core5.http.protocol.HttpProcessorBuilder;
import org.apache.hc.core5.http.protocol.RequestConnControl;
import org.apache.hc.core5.http.protocol.RequestContent;
import org.apache.hc.core5.http.protocol.RequestTargetHost;
import org.apache.hc.core5.http.protocol.RequestUserAgent;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.Request;

/** One request on its way out, and what people are shown of it, with secrets masked. */
final class HttpCall {

    /** As much of an answer is kept. */
    private static final int EXCERPT = 2_048;

    private static final String SENT_HEADERS = "holtra.sent-headers";

    /** What the client adds to a request on its way out, in its order. */
    private static final HttpProcessor AS_THE_CLIENT_DOES = HttpProcessorBuilder.create()
            .addAll(
                    new RequestTargetHost(),
                    new RequestContent(),
                    new RequestConnControl(),
                    new RequestUserAgent(HttpSink.USER_AGENT))
            .build();

    private final HttpTarget target;
    private final Request asked;
    private final BatchBody batchBody;
    private final String address;
    private final HttpClientContext context = HttpClientContext.create();

    /**
     * @param target with the credential that this request presents
     * @param batchBody how several stand together; null if each goes by itself
     */
    HttpCall(HttpTarget target, Request asked, BatchBody batchBody) {
        this.target = target;
        this.asked = asked;
        this.batchBody = batchBody;
        this.address = target.address(asked.content());
    }

    static void remember(HttpRequest request, EntityDetails entity, HttpContext context) {
        context.setAttribute(SENT_HEADERS, request.getHeaders());
    }

    Request asked() {
        return asked;
    }

    HttpTarget target() {
        return target;
    }

    HttpClientContext context() {
        return context;
    }

    /** @throws IllegalArgumentException if the address is none, with a sentence for people */
    HttpUriRequestBase request() {
        try {
            return built();
        } catch (IllegalArgumentException e) {
            throw new IllegalArgumentException(
                    "the address `" + masked(address) + "` is not one: " + masked(e.getMessage()), e);
        }
    }

    private HttpUriRequestBase built() {
        HttpUriRequestBase request =
                new HttpUriRequestBase(target.method(asked.content()), java.net.URI.create(address));
        target.headers(asked.content()).forEach(request::setHeader);
        Request.Marks marks = asked.marks();
        if (marks.corrects() != null) {
            request.setHeader("Holtra-Corrects", marks.corrects());
        }
        if (marks.replays() != null) {
            request.setHeader("Holtra-Replays", marks.replays());
        }
        request.setHeader("Idempotency-Key", asked.idempotencyKey());
        if (asked.isBatch()) {
            request.setHeader("Holtra-Deliveries", String.join(", ", asked.keys()));
        }
        request.setHeader("traceparent", asked.traceparent());
        if (marks.trial()) {
            request.setHeader("Holtra-Trial", "true");
        }
        if (marks.simulated()) {
            request.setHeader("Holtra-Simulated", "true");
        }
        if (marks.late()) {
            request.setHeader("Holtra-Late", "true");
        }
        String contentType = asked.content().contentType();
        if (contentType != null) {
            request.setEntity(
                    asked.isBatch()
                            ? new ByteArrayEntity(
                                    batchBody.join(asked.parts().stream()
                                            .map(part -> part.content().body())
                                            .toList()),
                                    ContentType.parse(batchBody.contentType(contentType)))
                            : new ByteArrayEntity(asked.content().body(), ContentType.parse(contentType)));
        }
        return request;
    }

    /** Nothing is sent. */
    Exchange preview() {
        HttpUriRequestBase request = request();
        try {
            context.setRequest(request);
            AS_THE_CLIENT_DOES.process(request, request.getEntity(), context);
        } catch (HttpException | IOException e) {
            throw new IllegalArgumentException("it cannot be sent: " + masked(e.getMessage()), e);
        }
        return new Exchange(summary(), shown(request.getHeaders()));
    }

    /** Whether anything went out. */
    boolean isSent() {
        return context.getAttribute(SENT_HEADERS) != null;
    }

    Exchange exchange() {
        return new Exchange(
                summary(), context.getAttribute(SENT_HEADERS) instanceof Header[] sent ? shown(sent) : Map.of());
    }

    private String summary() {
        return target.method(asked.content()) + " " + masked(address);
    }

    private Map<String, String> shown(Header[] headers) {
        Map<String, String> shown = new LinkedHashMap<>();
        for (Header header : headers) {
            shown.put(header.getName(), shown(header));
        }
        return shown;
    }

    private String shown(Header header) {
        return header.getName().toLowerCase(Locale.ROOT).contains("authorization")
                ? scheme(header.getValue())
                : masked(header.getValue());
    }

    /** The scheme stays to be seen, since its absence or doubling is a usual mistake; the rest does not. */
    private static String scheme(String value) {
        int space = value.indexOf(' ');
        return (space < 0 ? "" : value.substring(0, space + 1)) + HttpTarget.MASK;
    }

    byte[] excerpt(byte[] body) {
        // Masked before it is cut: half a secret is known by nothing.
        byte[] text = masked(new String(body, StandardCharsets.UTF_8)).getBytes(StandardCharsets.UTF_8);
        return text.length > EXCERPT ? Arrays.copyOf(text, EXCERPT) : text;
    }

    String masked(String text) {
        return target.masked(text);
    }
}
