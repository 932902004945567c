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
import java.util.function.Function;
import javax.net.ssl.SSLException;
import org.apache.hc.client5.http.ConnectTimeoutException;
import org.apache.hc.client5.http.classic.methods.HttpUriRequestBase;
import org.apache.hc.client5.http.config.ConnectionConfig;
import org.apache.hc.client5.http.config.RequestConfig;
import org.apache.hc.client5.http.impl.classic.CloseableHttpClient;
import org.apache.hc.client5.http.impl.classic.HttpClients;
import org.apache.hc.client5.http.impl.io.PoolingHttpClientConnectionManagerBuilder;
import org.apache.hc.core5.http.ClassicHttpResponse;
import org.apache.hc.core5.http.Header;
import org.apache.hc.core5.http.HttpHeaders;
import org.apache.hc.core5.io.CloseMode;
import org.apache.hc.core5.util.TimeValue;
import org.apache.hc.core5.util.Timeout;
import org.holtra.core.delivery.Answer;
import org.holtra.core.delivery.Batch;
import org.holtra.core.delivery.Verdict;
import org.holtra.core.delivery.VerdictRules;
import org.holtra.core.expression.Plain;
import org.holtra.core.introduction.StepOutcome;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.Content;
import org.holtra.core.shape.Envelope;
import org.holtra.service.credentials.Credential;
import org.holtra.service.dispatch.Asked;
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

    /** As much of an answer is read so that its connection can serve again; a longer one costs the connection. */
    private static final int DRAINED = 65_536;

    private static final JsonMapper JSON = JsonMapper.shared();
    static final String USER_AGENT = "Holtra";
    private static final String STATUS = "status";
    private static final String HEADERS = "headers";
    private static final TimeValue CHECK_IDLE_CONNECTIONS_AFTER = TimeValue.ofMilliseconds(250);
    private static final Logger log = LoggerFactory.getLogger(HttpSink.class);

    private final HttpTarget target;
    private final ClientTls tls;
    private final InstantSource clock;
    private final ScheduledExecutorService deadlines;
    private final CloseableHttpClient client;
    private final VerdictRules rules;
    private final Batch batch;
    private final BatchBody batchBody;
    private final boolean introduces;

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
        this.introduces = outlet.recipe() != null;
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
                .addRequestInterceptorLast(HttpCall::remember)
                .build();
    }

    @Override
    public Optional<String> whyNotTogether(Content content) {
        return batchBody.whyNot(content.contentType(), content.body());
    }

    @Override
    public Attempted attempt(Request asked) {
        HttpCall call = new HttpCall(target.presenting(presented(asked)), asked, batchBody);
        HttpUriRequestBase request;
        try {
            request = call.request();
        } catch (IllegalArgumentException e) {
            return Attempted.unanswered(new Verdict.Refused(e.getMessage()), "bad address", call.exchange());
        }
        return sent(call, request, response -> answered(response, call), failed -> failed);
    }

    @Override
    public Asked ask(Request asked) {
        HttpCall call = new HttpCall(target.presenting(presented(asked)), asked, null);
        HttpUriRequestBase request;
        try {
            request = call.request();
        } catch (IllegalArgumentException e) {
            return new Asked(
                    new StepOutcome.Refused(StepOutcome.Why.OTHER, e.getMessage()), null, null, call.exchange());
        }
        return sent(
                call,
                request,
                response -> read(response, call),
                failed -> new Asked(unanswered(failed.verdict()), null, null, failed.exchange()));
    }

    private static StepOutcome unanswered(Verdict verdict) {
        return switch (verdict) {
            case Verdict.TryLater(String reason, Instant notBefore, boolean unknown, boolean broken) ->
                new StepOutcome.TryLater(reason, notBefore, unknown);
            case Verdict.OutletBlocked(String reason) -> new StepOutcome.Blocked(reason);
            default -> new StepOutcome.Refused(StepOutcome.Why.OTHER, verdict.reason());
        };
    }

    private Asked read(ClassicHttpResponse response, HttpCall call) throws IOException {
        byte[] body = body(response);
        // A secret that comes back in the answer is known by nobody yet; what the recipe takes is masked by the recipe.
        Answer answer = answer(response, body);
        Header retryAfter = response.getFirstHeader(HttpHeaders.RETRY_AFTER);
        Instant notBefore = StatusVerdict.notBefore(retryAfter == null ? null : retryAfter.getValue(), clock.instant());
        return new Asked(
                StatusOutcome.of(response.getCode(), masked(answer.body(), call), notBefore),
                answer,
                notBefore,
                call.exchange().answered(call.excerpt(body)));
    }

    /** As text in which nothing secret is left; JSON stays as it is, since only single texts of it are told. */
    private static Object masked(Object body, HttpCall call) {
        if (body instanceof Map<?, ?> map) {
            Map<Object, Object> shown = new LinkedHashMap<>();
            map.forEach((name, value) -> shown.put(name, masked(value, call)));
            return shown;
        }
        return body instanceof String text ? call.masked(text) : body;
    }

    private interface Reading<T> {
        T read(ClassicHttpResponse response) throws IOException;
    }

    private <T> T sent(HttpCall call, HttpUriRequestBase request, Reading<T> answered, Function<Attempted, T> failed) {
        AtomicBoolean late = new AtomicBoolean();
        ScheduledFuture<?> deadline = deadlines.schedule(
                () -> {
                    late.set(true);
                    request.cancel();
                },
                target.timeout().toMillis(),
                TimeUnit.MILLISECONDS);
        try {
            return client.execute(request, call.context(), answered::read);
        } catch (IOException | RuntimeException e) {
            return failed.apply(failed(e, late.get(), call));
        } finally {
            deadline.cancel(false);
        }
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
        return new HttpCall(target.presenting(presented(asked)), asked, batchBody).preview();
    }

    private Attempted answered(ClassicHttpResponse response, HttpCall call) throws IOException {
        Request asked = call.asked();
        int status = response.getCode();
        String code = Integer.toString(status);
        byte[] body = body(response);
        Exchange exchange = call.exchange().answered(call.excerpt(body));
        Answer answer = null;
        Verdict verdict = null;
        if (!rules.isEmpty() || batch != null) {
            answer = answer(response, body);
        }
        if (asked.isBatch() && batch.answers() != null && status / 100 == 2) {
            Map<String, Object> fields = answer.fields();
            List<Attempted> parts = batch.each(answer, asked.parts().size()).orElse(List.of()).stream()
                    .map(entry -> about(entry, status, fields, call, exchange))
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
            verdict = byStatus(status, retryAfter == null ? null : retryAfter.getValue(), call);
        }
        return new Attempted(verdict, code, code, exchange);
    }

    /** What the answer to a batch says of one message in it: a number {@code status} in it stands for the answer's own. */
    private Attempted about(Object entry, int whole, Map<String, Object> fields, HttpCall call, Exchange exchange) {
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
                .orElseGet(() -> byStatus(status, (String) retryAfter, call));
        return new Attempted(verdict, code, code, exchange.answered(call.excerpt(JSON.writeValueAsBytes(entry))));
    }

    private static Credential presented(Request asked) {
        return asked.presented() == null ? null : asked.presented().credential();
    }

    private Verdict byStatus(int status, String retryAfter, HttpCall call) {
        if (status == 401 && call.target().credential() == null) {
            return new Verdict.OutletBlocked("the destination answered 401: it wants a credential, and none is set");
        }
        if (introduces && (status == 404 || status == 410)) {
            return new Verdict.DeviceUnknown("the destination answered " + status + ": it does not know the device");
        }
        Verdict verdict = StatusVerdict.of(status, retryAfter, call.asked().attempt(), clock.instant());
        // It is the device's own credential that is refused.
        return verdict instanceof Verdict.OutletBlocked(String why)
                        && call.asked().presented() != null
                ? new Verdict.DeviceHeld(why)
                : verdict;
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

    private Attempted failed(Exception e, boolean late, HttpCall call) {
        boolean sent = call.isSent();
        Exchange exchange = call.exchange();
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
        Verdict verdict = new Verdict.TryLater(reason + call.masked(words(e)), null, sent && !unreached, true);
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

    @Override
    public void close() {
        client.close(CloseMode.GRACEFUL);
    }
}
