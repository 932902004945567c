package org.holtra.service.httpclient;

import java.io.IOException;
import java.io.InputStream;
import java.net.ConnectException;
import java.net.NoRouteToHostException;
import java.net.SocketTimeoutException;
import java.net.UnknownHostException;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Arrays;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import javax.net.ssl.SSLException;
import org.apache.hc.client5.http.ConnectTimeoutException;
import org.apache.hc.client5.http.classic.methods.HttpUriRequestBase;
import org.apache.hc.client5.http.config.ConnectionConfig;
import org.apache.hc.client5.http.config.RequestConfig;
import org.apache.hc.client5.http.impl.classic.CloseableHttpClient;
import org.apache.hc.client5.http.impl.classic.HttpClients;
import org.apache.hc.client5.http.impl.io.PoolingHttpClientConnectionManagerBuilder;
import org.apache.hc.client5.http.protocol.HttpClientContext;
import org.apache.hc.core5.http.ClassicHttpResponse;
import org.apache.hc.core5.http.ContentType;
import org.apache.hc.core5.http.EntityDetails;
import org.apache.hc.core5.http.Header;
import org.apache.hc.core5.http.HttpException;
import org.apache.hc.core5.http.HttpHeaders;
import org.apache.hc.core5.http.HttpRequest;
import org.apache.hc.core5.http.io.entity.ByteArrayEntity;
import org.apache.hc.core5.http.protocol.HttpContext;
import org.apache.hc.core5.http.protocol.HttpProcessor;
import org.apache.hc.core5.http.protocol.HttpProcessorBuilder;
import org.apache.hc.core5.http.protocol.RequestConnControl;
import org.apache.hc.core5.http.protocol.RequestContent;
import org.apache.hc.core5.http.protocol.RequestTargetHost;
import org.apache.hc.core5.http.protocol.RequestUserAgent;
import org.apache.hc.core5.io.CloseMode;
import org.apache.hc.core5.util.TimeValue;
import org.apache.hc.core5.util.Timeout;
import org.holtra.core.delivery.Answer;
import org.holtra.core.delivery.Batch;
import org.holtra.core.delivery.Verdict;
import org.holtra.core.delivery.VerdictRules;
import org.holtra.core.expression.Plain;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.Content;
import org.holtra.core.shape.Envelope;
import org.holtra.service.dispatch.Attempted;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.Request;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.reach.CheckedAddresses;
import org.holtra.service.reach.Reach;
import org.holtra.service.tls.ClientTls;
import org.holtra.service.tls.TlsFailure;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/**
 * Sends by HTTP/1.1, over a pool of connections of its own. The client's own retries and redirects are off: an attempt is
 * one request, and what follows is decided from its verdict.
 */
public final class HttpSink implements Sink {

    /** As much of an answer is kept. */
    private static final int EXCERPT = 2_048;
    /** As much of an answer is read so that its connection can serve again; a longer one costs the connection. */
    private static final int DRAINED = 65_536;

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final String USER_AGENT = "Holtra";
    private static final String STATUS = "status";
    private static final String HEADERS = "headers";
    private static final String SENT_HEADERS = "holtra.sent-headers";
    private static final TimeValue CHECK_IDLE_CONNECTIONS_AFTER = TimeValue.ofMilliseconds(250);
    private static final Logger log = LoggerFactory.getLogger(HttpSink.class);

    /** What the client adds to a request on its way out, in its order. */
    private static final HttpProcessor AS_THE_CLIENT_DOES = HttpProcessorBuilder.create()
            .addAll(
                    new RequestTargetHost(),
                    new RequestContent(),
                    new RequestConnControl(),
                    new RequestUserAgent(USER_AGENT))
            .build();

    private final HttpTarget target;
    private final ClientTls tls;
    private final InstantSource clock;
    private final ScheduledExecutorService deadlines;
    private final CloseableHttpClient client;
    private final VerdictRules rules;
    private final Batch batch;
    private final BatchBody batchBody;

    /**
     * What channels share.
     *
     * @param deadlines ends attempts that take too long
     * @param reach which addresses they may connect to
     */
    public record Surroundings(InstantSource clock, ScheduledExecutorService deadlines, Reach reach) {}

    public HttpSink(HttpTarget target, Outlet outlet, ClientTls tls, Surroundings around) {
        this.tls = tls;
        int connections = outlet.concurrency();
        this.rules = outlet.manner().verdicts();
        this.batch = outlet.manner().batch();
        this.batchBody = batch == null ? null : BatchBody.of(batch.form());
        this.target = target;
        this.clock = around.clock;
        this.deadlines = around.deadlines;
        Timeout timeout = Timeout.of(target.timeout());
        this.client = HttpClients.custom()
                .setConnectionManager(PoolingHttpClientConnectionManagerBuilder.create()
                        .setTlsSocketStrategy(tls.strategy())
                        .setDnsResolver(new CheckedAddresses(around.reach))
                        .setMaxConnTotal(connections)
                        .setMaxConnPerRoute(connections)
                        .setDefaultConnectionConfig(ConnectionConfig.custom()
                                .setConnectTimeout(timeout)
                                .setSocketTimeout(timeout)
                                .setValidateAfterInactivity(CHECK_IDLE_CONNECTIONS_AFTER)
                                .build())
                        .build())
                .setDefaultRequestConfig(RequestConfig.custom()
                        .setResponseTimeout(timeout)
                        .setConnectionRequestTimeout(timeout)
                        .build())
                .disableAutomaticRetries()
                .disableRedirectHandling()
                .disableCookieManagement()
                .disableContentCompression()
                .disableAuthCaching()
                .setUserAgent(USER_AGENT)
                .addRequestInterceptorLast(HttpSink::remember)
                .build();
    }

    private static void remember(HttpRequest request, EntityDetails entity, HttpContext context) {
        context.setAttribute(SENT_HEADERS, request.getHeaders());
    }

    @Override
    public Optional<String> whyNotTogether(Content content) {
        return batchBody.whyNot(content.contentType(), content.body());
    }

    @Override
    public Attempted attempt(Request asked) {
        String address = target.address(asked.content());
        HttpUriRequestBase request;
        try {
            request = request(address, asked);
        } catch (IllegalArgumentException e) {
            return Attempted.unanswered(
                    new Verdict.Refused("the address `" + target.masked(address) + "` is not one: "
                            + target.masked(e.getMessage())),
                    "bad address",
                    new Exchange(summary(address), Map.of()));
        }
        HttpClientContext context = HttpClientContext.create();
        AtomicBoolean late = new AtomicBoolean();
        ScheduledFuture<?> deadline = deadlines.schedule(
                () -> {
                    late.set(true);
                    request.cancel();
                },
                target.timeout().toMillis(),
                TimeUnit.MILLISECONDS);
        try {
            return client.execute(request, context, response -> answered(response, asked, address, context));
        } catch (IOException | RuntimeException e) {
            return failed(e, late.get(), address, context);
        } finally {
            deadline.cancel(false);
        }
    }

    private HttpUriRequestBase request(String address, Request asked) {
        HttpUriRequestBase request = new HttpUriRequestBase(target.method(), java.net.URI.create(address));
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

    /**
     * Asks what may be asked at the outlet's address, with all that its requests have but content.
     *
     * @return the status it is answered with
     */
    public int probe() throws IOException {
        Content nothing = new Content(Envelope.EMPTY, null, new byte[0]);
        HttpUriRequestBase request = new HttpUriRequestBase("OPTIONS", java.net.URI.create(target.address(nothing)));
        target.headers(nothing).forEach(request::setHeader);
        return client.execute(request, ClassicHttpResponse::getCode);
    }

    public String masked(String text) {
        return target.masked(text);
    }

    @Override
    public Exchange preview(Request asked) {
        String address = target.address(asked.content());
        try {
            HttpUriRequestBase request = request(address, asked);
            HttpClientContext context = HttpClientContext.create();
            context.setRequest(request);
            AS_THE_CLIENT_DOES.process(request, request.getEntity(), context);
            return new Exchange(summary(address), shown(request.getHeaders()));
        } catch (IllegalArgumentException | HttpException | IOException e) {
            throw new IllegalArgumentException(
                    "the address `" + target.masked(address) + "` is not one: " + target.masked(e.getMessage()));
        }
    }

    private String summary(String address) {
        return target.method() + " " + target.masked(address);
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
                : target.masked(header.getValue());
    }

    private Attempted answered(ClassicHttpResponse response, Request asked, String address, HttpClientContext context)
            throws IOException {
        int status = response.getCode();
        String code = Integer.toString(status);
        byte[] body = body(response);
        Exchange exchange = exchange(address, context).answered(excerpt(body));
        Answer answer = null;
        Verdict verdict = null;
        if (!rules.isEmpty() || batch != null) {
            answer = answer(response, body);
        }
        if (asked.isBatch() && batch.answers() != null && status / 100 == 2) {
            Map<String, Object> fields = answer.fields();
            List<Attempted> parts = batch.each(answer, asked.parts().size()).orElse(List.of()).stream()
                    .map(entry -> about(entry, status, fields, asked, exchange))
                    .toList();
            verdict = parts.isEmpty()
                    ? rules.judge(answer, clock.instant()).orElseGet(this::untold)
                    : new Verdict.Delivered();
            return new Attempted(verdict, code, code, exchange, parts);
        }
        if (!rules.isEmpty()) {
            verdict = rules.judge(answer, clock.instant()).orElse(null);
        }
        if (verdict == null) {
            Header retryAfter = response.getFirstHeader(HttpHeaders.RETRY_AFTER);
            verdict = byStatus(status, retryAfter == null ? null : retryAfter.getValue(), asked.attempt());
        }
        return new Attempted(verdict, code, code, exchange);
    }

    /** What the answer to a batch says of one message in it: a number {@code status} in it stands for the answer's own. */
    private Attempted about(Object entry, int whole, Map<String, Object> fields, Request asked, Exchange exchange) {
        int status = entry instanceof Map<?, ?> map
                        && map.get(STATUS) instanceof Number number
                        && number.intValue() >= 100
                        && number.intValue() < 600
                ? number.intValue()
                : whole;
        String code = Integer.toString(status);
        Map<String, Object> its = new HashMap<>(fields);
        its.put(STATUS, (long) status);
        Instant now = clock.instant();
        Object retryAfter = fields.get(HEADERS) instanceof Map<?, ?> headers ? headers.get("retry-after") : null;
        Verdict verdict = rules.judge(new Answer(code, its, entry), now)
                .orElseGet(() -> byStatus(status, (String) retryAfter, asked.attempt()));
        return new Attempted(verdict, code, code, exchange.answered(excerpt(JSON.writeValueAsBytes(entry))));
    }

    private Verdict byStatus(int status, String retryAfter, int attempt) {
        return status == 401 && target.credential() == null
                ? new Verdict.OutletBlocked("the destination answered 401: it wants a credential, and none is set")
                : StatusVerdict.of(status, retryAfter, attempt, clock.instant());
    }

    private Verdict untold() {
        return new Verdict.TryLater(
                "the answer does not tell what became of each message: `"
                        + batch.answers().source() + "` gives no list of as many",
                null,
                true,
                false);
    }

    private static byte[] body(ClassicHttpResponse response) throws IOException {
        if (response.getEntity() == null) {
            return new byte[0];
        }
        InputStream content = response.getEntity().getContent();
        long said = response.getEntity().getContentLength();
        byte[] read = content.readNBytes(said >= 0 && said < DRAINED ? (int) said : DRAINED);
        if (read.length == DRAINED && content.read() >= 0) {
            response.close();
        }
        return read;
    }

    private static Answer answer(ClassicHttpResponse response, byte[] body) {
        Map<String, String> headers = new LinkedHashMap<>();
        for (Header header : response.getHeaders()) {
            headers.put(header.getName().toLowerCase(Locale.ROOT), header.getValue());
        }
        return new Answer(
                Integer.toString(response.getCode()),
                Map.of(STATUS, (long) response.getCode(), HEADERS, headers),
                readable(new String(body, StandardCharsets.UTF_8)));
    }

    private static Object readable(String text) {
        try {
            return Plain.of(JSON.readValue(text, Object.class));
        } catch (JacksonException e) {
            // Not every destination answers JSON; rules see the text then.
            return text;
        }
    }

    private byte[] excerpt(byte[] body) {
        // Masked before it is cut: half a secret is known by nothing.
        String masked = target.masked(new String(body, StandardCharsets.UTF_8));
        byte[] text = masked.getBytes(StandardCharsets.UTF_8);
        return text.length > EXCERPT ? Arrays.copyOf(text, EXCERPT) : text;
    }

    private Attempted failed(Exception e, boolean late, String address, HttpClientContext context) {
        boolean sent = context.getAttribute(SENT_HEADERS) != null;
        Exchange exchange = exchange(address, context);
        if (late || e instanceof SocketTimeoutException && !(e instanceof ConnectTimeoutException)) {
            String reason = "no answer within " + target.timeout().toMillis() + " ms";
            return Attempted.unanswered(new Verdict.TryLater(reason, null, sent, !sent), "timeout", exchange);
        }
        // With an alert about its certificate, a destination says that it takes no request.
        if (e instanceof SSLException failed && (!sent || tls.failure(failed).refused())) {
            TlsFailure failure = tls.failure(failed);
            return failure.refused()
                    ? Attempted.unanswered(new Verdict.OutletBlocked(failure.words()), "certificate refused", exchange)
                    : Attempted.unanswered(
                            new Verdict.TryLater(
                                    "the destination cannot be reached: " + failure.words(), null, false, true),
                            "unreachable",
                            exchange);
        }
        boolean unreached = e instanceof ConnectException
                || e instanceof ConnectTimeoutException
                || e instanceof UnknownHostException
                || e instanceof NoRouteToHostException;
        if (!(e instanceof IOException)) {
            // Without what the failure says: it may quote the request, and with it the credential.
            log.warn(
                    "An attempt failed in an unforeseen way: {} at {}",
                    e.getClass().getName(),
                    e.getStackTrace().length == 0 ? "an unknown place" : e.getStackTrace()[0]);
        }
        String reason = unreached ? "the destination cannot be reached: " : "the connection broke: ";
        Verdict verdict = new Verdict.TryLater(reason + target.masked(words(e)), null, sent && !unreached, true);
        return Attempted.unanswered(verdict, unreached ? "unreachable" : "connection broke", exchange);
    }

    private static String words(Exception e) {
        if (e instanceof CheckedAddresses.OutOfReach) {
            return e.getMessage();
        }
        if (e instanceof UnknownHostException) {
            return "no host is called " + e.getMessage();
        }
        return e.getMessage() == null ? e.getClass().getSimpleName() : e.getMessage();
    }

    private Exchange exchange(String address, HttpClientContext context) {
        return new Exchange(
                summary(address), context.getAttribute(SENT_HEADERS) instanceof Header[] sent ? shown(sent) : Map.of());
    }

    /** The scheme stays to be seen, since its absence or doubling is a usual mistake; the rest does not. */
    private static String scheme(String value) {
        int space = value.indexOf(' ');
        return (space < 0 ? "" : value.substring(0, space + 1)) + HttpTarget.MASK;
    }

    @Override
    public void close() {
        client.close(CloseMode.GRACEFUL);
    }
}
