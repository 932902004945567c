package org.holtra.service.kinds.http;

import jakarta.servlet.AsyncContext;
import jakarta.servlet.ServletInputStream;
import jakarta.servlet.http.HttpServlet;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.security.cert.X509Certificate;
import java.time.InstantSource;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.Transport;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.httpclient.HttpCredential;
import org.holtra.service.intake.Intake;
import org.holtra.service.intake.Receipt;
import org.holtra.service.intake.SourceContext;
import org.holtra.service.journal.JournalUnavailable;
import org.holtra.service.web.PlainPort;
import org.holtra.service.web.WebProblem;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Takes messages at {@code /in/…}. A request gives its thread back while its message is committed; the answer is written
 * by the committing thread.
 */
final class HttpInletServlet extends HttpServlet {

    static final String ROOT = "/in";

    private static final int SMALL = 8_192;

    /** Where the container keeps what a sender showed (Jakarta Servlet 6.1, section 3.10). */
    private static final String CERTIFICATES = "jakarta.servlet.request.X509Certificate";

    private static final long serialVersionUID = 1L;
    private static final int RETRY_AFTER_SECONDS = 5;
    private static final String FORM = "application/x-www-form-urlencoded";
    private static final Logger log = LoggerFactory.getLogger(HttpInletServlet.class);

    private final transient HttpInlets inlets;
    private final transient CredentialStore credentials;
    private final transient Intake intake;
    private final transient InstantSource clock;
    private final transient SlowBody.Bounds bounds;
    private final transient RefusedCalls refusedCalls;
    private final transient RepeatedRefusals repeated;
    private final transient SignedIds signedIds = new SignedIds();

    HttpInletServlet(
            HttpInlets inlets,
            CredentialStore credentials,
            Intake intake,
            InstantSource clock,
            SlowBody.Bounds bounds,
            RefusedCalls refusedCalls) {
        this.repeated = new RepeatedRefusals(bounds.clock(), System::nanoTime);
        this.refusedCalls = refusedCalls;
        this.inlets = inlets;
        this.credentials = credentials;
        this.intake = intake;
        this.clock = clock;
        this.bounds = bounds;
    }

    @Override
    protected void service(HttpServletRequest request, HttpServletResponse response) throws IOException {
        String path = request.getPathInfo() == null ? "" : request.getPathInfo().substring(1);
        Optional<HttpInlets.Found> found = inlets.at(path);
        Optional<String> whyNot = found.isEmpty() ? intake.whyNot() : Optional.empty();
        if (whyNot.isPresent()) {
            unavailable(response, whyNot.get());
            return;
        }
        if (found.isEmpty()) {
            refusedCalls.unknown(request, path, 404);
            refuse(request, response, 404, "There is no inlet here", "No inlet has the path `" + path + "`.");
            return;
        }
        HttpInlets.Door door = found.get().door();
        if (request.getAttribute(PlainPort.WITHOUT_TLS) != null) {
            String was = "This port has no TLS; call the one with https.";
            refusedCalls.note(
                    request,
                    door,
                    403,
                    Slip.NOT_TLS,
                    was + " What was sent may have been read on its way: rotate its secret.");
            problem(response, 403, "The inlet is called with TLS only", was);
            return;
        }
        if (!door.methods().contains(request.getMethod())) {
            String allowed = String.join(", ", door.methods());
            response.setHeader("Allow", allowed);
            String was = "This was " + request.getMethod() + "; the inlet takes " + allowed + ".";
            refusedCalls.note(request, door, 405, Slip.METHOD, was + " Its methods say which it takes.");
            problem(response, 405, "The inlet does not take this method", was);
            return;
        }
        if (door.inlet().closed()) {
            response.setHeader("Retry-After", "60");
            refusedCalls.note(
                    request, door, 503, Slip.CLOSED, "The inlet is closed; open it, and the sender will come again.");
            problem(response, 503, "The inlet is closed", "A person closed it; it takes nothing until it is opened.");
            return;
        }
        List<HttpCredential> credential = accepted(door);
        if (credential.isEmpty()) {
            unavailable(
                    response,
                    "the inlet's credential `" + door.credential() + "` is gone, or has a form senders cannot show");
            return;
        }
        boolean signed = credential.getFirst() instanceof HttpCredential.Signature;
        if (!signed && refused(credential, found.get(), request, new byte[0], response)) {
            return;
        }
        if (!isGet(request) && !door.takes(request.getContentType())) {
            String types = door.contentTypes().isEmpty()
                    ? "those of its format, "
                            + door.inlet().contents().format().name().toLowerCase(Locale.ROOT)
                    : String.join(", ", door.contentTypes());
            String detail = "It takes " + types + "; this was "
                    + (request.getContentType() == null ? "without one" : request.getContentType())
                    + ". The inlet's contentTypes say which it takes.";
            refusedCalls.note(request, door, 415, Slip.CONTENT_TYPE, detail);
            problem(response, 415, "The inlet does not take this content type", detail);
            return;
        }
        if (request.getContentLengthLong() > door.maxBytes()) {
            tooLarge(request, response, door);
            return;
        }
        if (!door.gate().takesMore()) {
            response.setHeader("Retry-After", "1");
            refusedCalls.note(
                    request, door, 429, Slip.TOO_MANY, "More came within a second than the inlet's perSecond allows.");
            problem(response, 429, "Too many messages", "The inlet takes so many a second and no more. Send it again.");
            return;
        }
        Optional<Gate.Pass> pass = door.gate().enter();
        if (pass.isEmpty()) {
            response.setHeader("Retry-After", "1");
            refusedCalls.note(request, door, 429, Slip.TOO_MANY, "More came at once than the inlet's atOnce allows.");
            problem(response, 429, "Too many requests at once", "The inlet takes no more at a time. Send it again.");
            return;
        }
        Exchange exchange = new Exchange(request, response, found.get(), credential.getFirst(), pass.get());
        try {
            take(exchange, signed ? credential : List.of());
        } catch (IOException | RuntimeException e) {
            pass.get().leave();
            throw e;
        }
    }

    private List<HttpCredential> accepted(HttpInlets.Door door) {
        return credentials.accepted(door.credential()).stream()
                .flatMap(one -> HttpCredential.of(one).stream())
                .toList();
    }

    /** @param toSign what the body must be signed with; empty if it need not be */
    private void take(Exchange exchange, List<HttpCredential> toSign) throws IOException {
        if (isGet(exchange.request)) {
            readAtOnce(exchange, toSign, queryOf(exchange));
            return;
        }
        byte[] begun = whatHasCome(exchange.request);
        if (begun.length == exchange.request.getContentLengthLong()) {
            readAtOnce(exchange, toSign, begun);
        } else {
            readAsItComes(exchange, toSign, begun);
        }
    }

    private static boolean isGet(HttpServletRequest request) {
        return request.getMethod().equals("GET");
    }

    /** What a GET brings: its query as it came, without the sender's secret. */
    private static byte[] queryOf(Exchange exchange) {
        String query = exchange.request.getQueryString();
        return query == null
                ? new byte[0]
                : RequestQuery.without(query, secretParameter(exchange.credential))
                        .getBytes(StandardCharsets.UTF_8);
    }

    /** The name of the query parameter that holds the sender's secret; null if none does. */
    private static String secretParameter(HttpCredential credential) {
        return credential instanceof HttpCredential.Query(String name, String ignored) ? name : null;
    }

    /** A request under way. */
    private record Exchange(
            HttpServletRequest request,
            HttpServletResponse response,
            HttpInlets.Found found,
            HttpCredential credential,
            Gate.Pass pass) {

        HttpInlets.Door door() {
            return found.door();
        }
    }

    /**
     * What of a body can be read without waiting: small ones come with the headers. That is asked for again and again, since
     * a stream says only whether there is more.
     */
    private static byte[] whatHasCome(HttpServletRequest request) throws IOException {
        ServletInputStream in = request.getInputStream();
        int length = (int) Math.max(0, request.getContentLengthLong());
        byte[] body = new byte[Math.min(length, in.available())];
        int read = 0;
        while (read < length && in.available() > 0) {
            if (read == body.length) {
                body = Arrays.copyOf(body, (int) Math.min(length, read + Math.max(in.available(), read)));
            }
            int more = in.read(body, read, body.length - read);
            if (more < 0) {
                break;
            }
            read += more;
        }
        return read == body.length ? body : Arrays.copyOf(body, read);
    }

    private void readAtOnce(Exchange exchange, List<HttpCredential> toSign, byte[] body) throws IOException {
        if (!bounds.memory().take(body.length)) {
            exchange.pass.leave();
            failure(SlowBody.Failure.NO_MEMORY, exchange);
            return;
        }
        exchange.pass.atEnd(() -> bounds.memory().giveBack(body.length));
        read(exchange, toSign, body, null);
    }

    /** A sender that trickles holds a connection for a while, and no thread. */
    private void readAsItComes(Exchange exchange, List<HttpCredential> toSign, byte[] begun) throws IOException {
        AsyncContext async = exchange.request.startAsync();
        SlowBody slow =
                new SlowBody(exchange.request.getInputStream(), exchange.door().maxBytes(), bounds);
        slow.read(begun, async, new SlowBody.Reader() {
            @Override
            public void came(byte[] body) throws IOException {
                async.setTimeout(0);
                exchange.pass.atEnd(() -> bounds.memory().giveBack(body.length));
                try {
                    read(exchange, toSign, body, async);
                } catch (IOException | RuntimeException e) {
                    exchange.pass.leave();
                    throw e;
                }
            }

            @Override
            public void failed(SlowBody.Failure why) throws IOException {
                exchange.pass.leave();
                try {
                    exchange.response.setHeader("Connection", "close");
                    failure(why, exchange);
                } finally {
                    async.complete();
                }
            }
        });
    }

    private void failure(SlowBody.Failure why, Exchange exchange) throws IOException {
        switch (why) {
            case TOO_LARGE -> tooLarge(exchange.request, exchange.response, exchange.door());
            case NO_MEMORY -> unavailable(exchange.response, "the bodies under way take the memory there is for them");
            case TOO_SLOW -> {
                refusedCalls.note(
                        exchange.request,
                        exchange.door(),
                        408,
                        Slip.TOO_SLOW,
                        bounds.rate().wanted());
                problem(
                        exchange.response,
                        408,
                        "The body came too slowly",
                        bounds.rate().wanted());
            }
        }
    }

    /** @param toSign what the body must be signed with; empty if it need not be */
    private void read(Exchange exchange, List<HttpCredential> toSign, byte[] body, AsyncContext async)
            throws IOException {
        if (!toSign.isEmpty() && refused(toSign, exchange.found, exchange.request, body, exchange.response)) {
            exchange.pass.leave();
            if (async != null) {
                async.complete();
            }
            return;
        }
        Arrival arrival = arrival(exchange, body);
        take(arrival, exchange, async);
    }

    private void tooLarge(HttpServletRequest request, HttpServletResponse response, HttpInlets.Door door)
            throws IOException {
        String detail = "The inlet takes up to " + door.maxBytes() + " bytes.";
        refusedCalls.note(request, door, 413, Slip.TOO_LARGE, detail + " Its maxBytes says how many.");
        problem(response, 413, "The body is too large", detail);
    }

    private boolean refused(
            List<HttpCredential> accepted,
            HttpInlets.Found found,
            HttpServletRequest request,
            byte[] body,
            HttpServletResponse response)
            throws IOException {
        SenderCheck.Shown shown = new SenderCheck.Shown(
                request::getHeader,
                name -> RequestQuery.value(request.getQueryString(), name),
                found.named()::get,
                () -> (X509Certificate[]) request.getAttribute(CERTIFICATES));
        Optional<String> refusal = Optional.empty();
        for (HttpCredential credential : accepted.reversed()) {
            refusal = SenderCheck.refusal(credential, shown, body, clock.instant());
            if (refusal.isEmpty()) {
                return false;
            }
        }
        response.setHeader("WWW-Authenticate", SenderCheck.challenge(accepted.getFirst()));
        String why = sentence(refusal.orElse("it showed nothing"));
        refusedCalls.unchecked(request, found, why);
        refuse(request, response, 401, "The sender could not be checked", why);
        return true;
    }

    /** At once, or after a while if the caller is refused again and again. */
    private void refuse(
            HttpServletRequest request, HttpServletResponse response, int status, String title, String detail)
            throws IOException {
        if (repeated.isRepeated(request.getRemoteAddr()) && !request.isAsyncStarted() && hasCome(request)) {
            AsyncContext async = request.startAsync();
            async.setTimeout(0);
            if (repeated.wait(() -> answerLate(async, response, status, title, detail))) {
                return;
            }
            problem(response, status, title, detail);
            async.complete();
            return;
        }
        problem(response, status, title, detail);
    }

    private static void answerLate(
            AsyncContext async, HttpServletResponse response, int status, String title, String detail) {
        try {
            response.setHeader("Connection", "close");
            problem(response, status, title, detail);
        } catch (IOException e) {
            log.debug("A refused caller was gone before it was answered", e);
        } finally {
            async.complete();
        }
    }

    /** Whether its body is small and here: what is still to come would have to be waited for after the answer. */
    private static boolean hasCome(HttpServletRequest request) throws IOException {
        long length = request.getContentLengthLong();
        return length <= SMALL
                && request.getHeader("Transfer-Encoding") == null
                && (length <= 0 || whatHasCome(request).length == length);
    }

    private static Arrival arrival(Exchange exchange, byte[] body) {
        HttpInlets.Door door = exchange.door();
        HttpServletRequest request = exchange.request;
        return new Arrival(
                door.context().nextId(),
                door.inlet().name(),
                transport(exchange),
                isGet(request) ? FORM : request.getContentType(),
                body,
                exchange.credential instanceof HttpCredential.Signature ? request.getHeader(WebhookSignature.ID) : null,
                null);
    }

    private static Transport transport(Exchange exchange) {
        HttpServletRequest request = exchange.request;
        String query = request.getQueryString() == null
                ? ""
                : MaskedQuery.of(request.getQueryString(), secretParameter(exchange.credential));
        Map<String, Object> fields = new LinkedHashMap<>();
        fields.put("path", exchange.found.named(exchange.credential));
        fields.put("query", RequestQuery.fields(query));
        fields.put("headers", KeptHeaders.of(request, exchange.door().headers(), exchange.credential));
        return new Transport(
                request.getRemoteAddr(),
                exchange.found.address(request.getRequestURI()) + (query.isEmpty() ? "" : "?" + query),
                request.getHeader("traceparent"),
                fields);
    }

    /** @param begun the request's asynchronous part; null if that has not begun */
    private void take(Arrival arrival, Exchange exchange, AsyncContext begun) throws IOException {
        SignedIds.Outcome outcome;
        AsyncContext async = begun;
        try {
            outcome = taken(arrival, exchange);
            if (async == null) {
                async = exchange.request.startAsync();
            }
            async.setTimeout(0);
        } catch (JournalUnavailable e) {
            exchange.pass.leave();
            unavailable(exchange.response, e.getMessage());
            if (begun != null) {
                begun.complete();
            }
            return;
        } catch (RuntimeException e) {
            exchange.pass.leave();
            if (begun != null) {
                begun.complete();
            }
            throw e;
        }
        answerOnce(outcome.receipt(), outcome.first(), exchange, async);
    }

    private SignedIds.Outcome taken(Arrival arrival, Exchange exchange) {
        SourceContext context = exchange.door().context();
        return arrival.idempotencyKey() == null
                ? new SignedIds.Outcome(context.take(arrival), true)
                : signedIds.take(
                        arrival.inlet(), arrival.idempotencyKey(), clock.instant(), () -> context.take(arrival));
    }

    /** @param first whether this request brought the message; else it brought it again */
    private void answerOnce(CompletableFuture<Receipt> taken, boolean first, Exchange exchange, AsyncContext async) {
        String inlet = exchange.door().inlet().name();
        taken.whenComplete((receipt, failure) -> {
            exchange.pass.leave();
            try {
                if (failure == null) {
                    if (first) {
                        exchange.door().context().acknowledged(receipt);
                    }
                    exchange.door().context().connection().good(receipt.id().received());
                    accepted(exchange.response, receipt);
                } else {
                    refused(inlet, failure);
                    unavailable(exchange.response, "the journal cannot be written");
                }
            } catch (IOException e) {
                log.debug("The sender was gone before it could be answered", e);
            } finally {
                async.complete();
            }
        });
    }

    /** Its sender is told to come again. That the database is away is told of by whoever found it out. */
    private static void refused(String inlet, Throwable failure) {
        for (Throwable at = failure; at != null; at = at.getCause()) {
            if (at instanceof JournalUnavailable) {
                log.debug("A message at inlet {} could not be kept", inlet, failure);
                return;
            }
        }
        log.warn("A message at inlet {} could not be kept", inlet, failure);
    }

    private static void accepted(HttpServletResponse response, Receipt receipt) throws IOException {
        response.setStatus(202);
        response.setContentType("application/json");
        String body = "{\"id\":\"" + receipt.id() + (receipt.ignored() ? "\",\"ignored\":true}" : "\"}");
        response.getOutputStream().write(body.getBytes(StandardCharsets.US_ASCII));
    }

    private static void unavailable(HttpServletResponse response, String why) throws IOException {
        response.setHeader("Retry-After", Integer.toString(RETRY_AFTER_SECONDS));
        problem(response, 503, "Nothing can be taken now", sentence(why) + " Nothing was kept; send it again.");
    }

    private static void problem(HttpServletResponse response, int status, String title, String detail)
            throws IOException {
        WebProblem.write(response, status, title, detail);
    }

    private static String sentence(String text) {
        return Character.toUpperCase(text.charAt(0)) + text.substring(1) + ".";
    }
}
