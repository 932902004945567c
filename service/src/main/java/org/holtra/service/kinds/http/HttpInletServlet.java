package org.holtra.service.kinds.http;

import jakarta.servlet.AsyncContext;
import jakarta.servlet.ServletInputStream;
import jakarta.servlet.http.HttpServlet;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.InstantSource;
import java.util.Arrays;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import org.holtra.core.message.Arrival;
import org.holtra.core.message.MessageId;
import org.holtra.service.credentials.Credential;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.intake.Intake;
import org.holtra.service.journal.JournalUnavailable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import tools.jackson.databind.json.JsonMapper;

/**
 * Takes messages at {@code /in/…}. A request gives its thread back while its message is committed; the answer is written
 * by the committing thread.
 */
final class HttpInletServlet extends HttpServlet {

    static final String ROOT = "/in";

    private static final long serialVersionUID = 1L;
    private static final int RETRY_AFTER_SECONDS = 5;
    private static final long BODY_MILLIS = 30_000;
    private static final Set<String> METHODS = Set.of("POST", "PUT");
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Logger log = LoggerFactory.getLogger(HttpInletServlet.class);

    private final transient HttpInlets inlets;
    private final transient CredentialStore credentials;
    private final transient Intake intake;
    private final transient InstantSource clock;

    HttpInletServlet(HttpInlets inlets, CredentialStore credentials, Intake intake, InstantSource clock) {
        this.inlets = inlets;
        this.credentials = credentials;
        this.intake = intake;
        this.clock = clock;
    }

    @Override
    protected void service(HttpServletRequest request, HttpServletResponse response) throws IOException {
        String path = request.getPathInfo() == null ? "" : request.getPathInfo().substring(1);
        Optional<HttpInlets.Door> found = inlets.at(path);
        Optional<String> whyNot = found.isEmpty() ? intake.whyNot() : Optional.empty();
        if (whyNot.isPresent()) {
            unavailable(response, whyNot.get());
            return;
        }
        if (found.isEmpty()) {
            problem(response, 404, "There is no inlet here", "No inlet has the path `" + path + "`.");
            return;
        }
        HttpInlets.Door door = found.get();
        if (!METHODS.contains(request.getMethod())) {
            response.setHeader("Allow", "POST, PUT");
            problem(response, 405, "An inlet takes POST and PUT", "This was " + request.getMethod() + ".");
            return;
        }
        if (door.inlet().closed()) {
            response.setHeader("Retry-After", "60");
            problem(response, 503, "The inlet is closed", "A person closed it; it takes nothing until it is opened.");
            return;
        }
        List<Credential> credential = credentials.accepted(door.credential());
        if (credential.isEmpty()) {
            unavailable(response, "the inlet's credential `" + door.credential() + "` is gone");
            return;
        }
        boolean signed = credential.getFirst() instanceof Credential.Signature;
        if (!signed && refused(credential, request, new byte[0], response)) {
            return;
        }
        if (!door.takes(request.getContentType())) {
            problem(
                    response,
                    415,
                    "The inlet does not take this content type",
                    "It takes " + String.join(", ", door.contentTypes()) + "; this was "
                            + (request.getContentType() == null ? "without one" : request.getContentType()) + ".");
            return;
        }
        if (request.getContentLengthLong() > door.maxBytes()) {
            tooLarge(response, door);
            return;
        }
        if (!door.gate().takesMore()) {
            response.setHeader("Retry-After", "1");
            problem(response, 429, "Too many messages", "The inlet takes so many a second and no more. Send it again.");
            return;
        }
        if (!door.gate().enter()) {
            response.setHeader("Retry-After", "1");
            problem(response, 429, "Too many requests at once", "The inlet takes no more at a time. Send it again.");
            return;
        }
        Exchange exchange = new Exchange(request, response, door, credential.getFirst());
        List<Credential> toSign = signed ? credential : List.of();
        byte[] begun = whatHasCome(request);
        if (begun.length == request.getContentLengthLong()) {
            read(exchange, toSign, begun, null);
        } else {
            readAsItComes(exchange, toSign, begun);
        }
    }

    /** A request under way. */
    private record Exchange(
            HttpServletRequest request, HttpServletResponse response, HttpInlets.Door door, Credential credential) {}

    /**
     * What of a body can be read without waiting: small ones come with the headers. That is asked for again and again, since
     * a stream says only whether there is more.
     */
    private static byte[] whatHasCome(HttpServletRequest request) throws IOException {
        ServletInputStream in = request.getInputStream();
        int length = (int) Math.max(0, request.getContentLengthLong());
        byte[] body = new byte[in.available() > 0 ? length : 0];
        int read = 0;
        while (read < body.length && in.available() > 0) {
            int more = in.read(body, read, body.length - read);
            if (more < 0) {
                break;
            }
            read += more;
        }
        return read == body.length ? body : Arrays.copyOf(body, read);
    }

    /** A sender that trickles holds a connection for a while, and no thread. */
    private void readAsItComes(Exchange exchange, List<Credential> toSign, byte[] begun) throws IOException {
        AsyncContext async = exchange.request.startAsync();
        async.setTimeout(BODY_MILLIS);
        SlowBody slow = new SlowBody(exchange.request.getInputStream(), exchange.door.maxBytes(), async);
        slow.read(begun, new SlowBody.Reader() {
            @Override
            public void came(byte[] body) throws IOException {
                async.setTimeout(0);
                read(exchange, toSign, body, async);
            }

            @Override
            public void failed(boolean tooLarge) throws IOException {
                exchange.door.gate().leave();
                if (tooLarge) {
                    tooLarge(exchange.response, exchange.door);
                } else {
                    exchange.response.setHeader("Connection", "close");
                    problem(
                            exchange.response,
                            408,
                            "The body did not come",
                            "Its sender took longer than " + BODY_MILLIS / 1_000 + " s to send it.");
                }
                async.complete();
            }
        });
    }

    /** @param toSign what the body must be signed with; empty if it need not be */
    private void read(Exchange exchange, List<Credential> toSign, byte[] body, AsyncContext async) throws IOException {
        if (!toSign.isEmpty() && refused(toSign, exchange.request, body, exchange.response)) {
            exchange.door.gate().leave();
            if (async != null) {
                async.complete();
            }
            return;
        }
        Arrival arrival = arrival(exchange.request, exchange.door, exchange.credential, body);
        take(arrival, exchange, async);
    }

    private static void tooLarge(HttpServletResponse response, HttpInlets.Door door) throws IOException {
        response.setHeader("Connection", "close");
        problem(response, 413, "The body is too large", "The inlet takes up to " + door.maxBytes() + " bytes.");
    }

    private boolean refused(
            List<Credential> accepted, HttpServletRequest request, byte[] body, HttpServletResponse response)
            throws IOException {
        Optional<String> refusal = Optional.empty();
        for (Credential credential : accepted.reversed()) {
            refusal = SenderCheck.refusal(credential, request::getHeader, body, clock.instant());
            if (refusal.isEmpty()) {
                return false;
            }
        }
        response.setHeader("WWW-Authenticate", SenderCheck.challenge(accepted.getFirst()));
        problem(response, 401, "The sender could not be checked", sentence(refusal.orElse("it showed nothing")));
        return true;
    }

    private Arrival arrival(HttpServletRequest request, HttpInlets.Door door, Credential credential, byte[] body) {
        Map<String, String> headers = new LinkedHashMap<>();
        for (String name : Collections.list(request.getHeaderNames())) {
            String lower = name.toLowerCase(Locale.ROOT);
            if (!secret(lower, credential)) {
                headers.put(lower, String.join(", ", Collections.list(request.getHeaders(name))));
            }
        }
        String query = request.getQueryString();
        return new Arrival(
                intake.nextId(),
                door.inlet().name(),
                request.getRemoteAddr(),
                request.getRequestURI() + (query == null ? "" : "?" + query),
                headers,
                request.getContentType(),
                body);
    }

    private static boolean secret(String header, Credential credential) {
        return header.contains("authorization")
                || header.contains("cookie")
                || header.contains("signature")
                || credential instanceof Credential.Header(String name, String value) && name.equalsIgnoreCase(header);
    }

    /** @param begun the request's asynchronous part; null if that has not begun */
    private void take(Arrival arrival, Exchange exchange, AsyncContext begun) throws IOException {
        HttpServletResponse response = exchange.response;
        String inlet = exchange.door.inlet().name();
        CompletableFuture<MessageId> taken;
        try {
            taken = intake.take(arrival, exchange.door.inlet());
        } catch (JournalUnavailable e) {
            exchange.door.gate().leave();
            unavailable(response, e.getMessage());
            if (begun != null) {
                begun.complete();
            }
            return;
        }
        AsyncContext async = begun == null ? exchange.request.startAsync() : begun;
        async.setTimeout(0);
        taken.whenComplete((id, failure) -> {
            exchange.door.gate().leave();
            try {
                if (failure == null) {
                    intake.acknowledged(id, inlet);
                    accepted(response, id);
                } else {
                    refused(inlet, failure);
                    unavailable(response, "the journal cannot be written");
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

    private static void accepted(HttpServletResponse response, MessageId id) throws IOException {
        response.setStatus(202);
        response.setContentType("application/json");
        response.getOutputStream().write(("{\"id\":\"" + id + "\"}").getBytes(StandardCharsets.US_ASCII));
    }

    private static void unavailable(HttpServletResponse response, String why) throws IOException {
        response.setHeader("Retry-After", Integer.toString(RETRY_AFTER_SECONDS));
        problem(response, 503, "Nothing can be taken now", sentence(why) + " Nothing was kept; send it again.");
    }

    /** Problem details (RFC 9457). */
    private static void problem(HttpServletResponse response, int status, String title, String detail)
            throws IOException {
        Map<String, Object> problem = new LinkedHashMap<>();
        problem.put("type", "about:blank");
        problem.put("title", title);
        problem.put("status", status);
        problem.put("detail", detail);
        response.setStatus(status);
        response.setContentType("application/problem+json");
        response.getOutputStream().write(JSON.writeValueAsBytes(problem));
    }

    private static String sentence(String text) {
        return Character.toUpperCase(text.charAt(0)) + text.substring(1) + ".";
    }
}
