package org.holtra.service.kinds.http;

import jakarta.servlet.http.HttpServletRequest;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.holtra.core.text.Nearest;
import org.holtra.service.cluster.Node;
import org.holtra.service.credentials.CredentialStore;
import org.holtra.service.httpclient.HttpCredential;
import org.holtra.service.refusals.Refusal;
import org.holtra.service.refusals.Refusals;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.SmartLifecycle;
import org.springframework.stereotype.Component;

/**
 * Notes the calls that are refused. By which slip a sender could not be checked is found out by a thread of its own: it costs
 * more than the answer, and how long the answer takes must not tell a stranger anything. If more come than it can look at,
 * they are counted.
 */
@Component
class RefusedCalls implements SmartLifecycle {

    private static final int MOST_WAITING = 500;
    private static final int MOST_PATHS_COMPARED = 1_000;
    private static final int LONGEST_PATH_COMPARED = 200;
    private static final Logger log = LoggerFactory.getLogger(RefusedCalls.class);

    /** What has to be found out of a call; null of what is known. */
    private record Unexamined(
            Instant at, String remote, String address, Map<String, String> shown, Question question) {}

    /**
     * @param headers where secrets may be, as they came; kept only until they are looked at
     * @param refusal what the sender was told
     */
    private record Question(HttpInlets.Door door, Map<String, String> headers, String refusal) {}

    private final HttpInlets inlets;
    private final CredentialStore credentials;
    private final Refusals refusals;
    private final Node node;
    private final InstantSource clock;
    private final BlockingQueue<Unexamined> waiting = new ArrayBlockingQueue<>(MOST_WAITING);
    private volatile Thread examiner;

    RefusedCalls(HttpInlets inlets, CredentialStore credentials, Refusals refusals, Node node, InstantSource clock) {
        this.inlets = inlets;
        this.credentials = credentials;
        this.refusals = refusals;
        this.node = node;
        this.clock = clock;
    }

    /** An inlet refused a call for a slip that is plain to see. */
    void note(HttpServletRequest request, HttpInlets.Door door, int status, Slip slip, String text) {
        add(request, door.inlet().name(), secretsOf(door), status, slip.told(text));
    }

    /** A call to an address that is no inlet's. */
    void unknown(HttpServletRequest request, String path, int status) {
        add(request, Refusals.NO_INLET, List.of(), status, Slip.WRONG_PATH.told(nearest(path)));
    }

    /** What must not be shown of a call to an inlet, wherever it stands. */
    private List<String> secretsOf(HttpInlets.Door door) {
        return credentials.accepted(door.credential()).stream()
                .flatMap(one -> HttpCredential.of(one).stream())
                .map(SenderSlip::secretOf)
                .filter(secret -> !secret.isEmpty())
                .toList();
    }

    private void add(HttpServletRequest request, String inlet, List<String> secrets, int status, Slip.Told told) {
        refusals.add(refusal(
                new Unexamined(
                        clock.instant(),
                        request.getRemoteAddr(),
                        MaskedCall.address(request, secrets),
                        MaskedCall.headers(request),
                        null),
                inlet,
                status,
                told));
    }

    private Refusal refusal(Unexamined call, String inlet, int status, Slip.Told told) {
        return new Refusal(
                call.at,
                inlet,
                node.name(),
                call.remote,
                call.address,
                Integer.toString(status),
                told.slip().word(),
                told.text(),
                call.shown);
    }

    private String nearest(String path) {
        String there = "No inlet is at /in/" + (MaskedQuery.looksSecret(path) ? "•••" : path) + ".";
        if (path.length() > LONGEST_PATH_COMPARED) {
            return there;
        }
        Map<String, String> byPath = inlets.paths()
                .limit(MOST_PATHS_COMPARED)
                .collect(Collectors.toMap(HttpInlets.At::path, HttpInlets.At::inlet, (a, b) -> a));
        return Nearest.of(path, byPath.keySet())
                .map(near -> there + " The nearest is /in/" + near + ", of inlet " + byPath.get(near) + ".")
                .orElse(there);
    }

    /**
     * A call whose sender could not be checked: 401.
     *
     * @param refusal what the sender is told
     */
    void unchecked(HttpServletRequest request, HttpInlets.Found found, String refusal) {
        HttpInlets.Door door = found.door();
        if (waiting.remainingCapacity() == 0) {
            refusals.countOnly(door.inlet().name(), Slip.WRONG_SECRET.word());
            return; // before anything is masked that nobody would look at
        }
        Map<String, String> headers = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
        Stream<String> named = credentials.find(door.credential()).flatMap(HttpCredential::of).stream()
                .flatMap(wanted -> wanted instanceof HttpCredential.Header(String name, String ignored)
                        ? Stream.of(name)
                        : Stream.empty());
        Stream.concat(SenderSlip.PLACES.stream(), named)
                .filter(name -> request.getHeader(name) != null)
                .forEach(name -> headers.put(name, request.getHeader(name)));
        credentials
                .find(door.credential())
                .flatMap(HttpCredential::of)
                .filter(HttpCredential.Query.class::isInstance)
                .map(HttpCredential.Query.class::cast)
                .map(wanted -> RequestQuery.value(request.getQueryString(), wanted.name()))
                .ifPresent(value -> headers.put(SenderSlip.QUERY, value));
        Optional.ofNullable(found.named().get(InletPath.SECRET))
                .ifPresent(value -> headers.put(SenderSlip.PATH, value));
        Unexamined call = new Unexamined(
                clock.instant(),
                request.getRemoteAddr(),
                MaskedCall.address(request, secretsOf(door)),
                MaskedCall.headers(request),
                new Question(door, headers, refusal));
        if (!waiting.offer(call)) {
            refusals.countOnly(door.inlet().name(), Slip.WRONG_SECRET.word());
        }
    }

    private void examine() {
        while (!Thread.currentThread().isInterrupted()) {
            try {
                Unexamined call = waiting.take();
                refusals.add(refusal(call, call.question.door.inlet().name(), 401, slip(call)));
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            } catch (RuntimeException e) {
                log.warn("A refused call could not be looked at", e);
            }
        }
    }

    private Slip.Told slip(Unexamined call) {
        HttpInlets.Door door = call.question.door;
        Optional<HttpCredential> wanted = credentials.find(door.credential()).flatMap(HttpCredential::of);
        if (wanted.isEmpty()) {
            return Slip.WRONG_SECRET.told("The inlet's credential `" + door.credential() + "` is gone.");
        }
        Map<String, List<HttpCredential>> others = inlets.paths()
                .filter(at -> !at.inlet().equals(door.inlet().name())
                        && !at.credential().equals(door.credential()))
                .collect(Collectors.toMap(
                        HttpInlets.At::inlet,
                        at -> credentials.accepted(at.credential()).stream()
                                .flatMap(one -> HttpCredential.of(one).stream())
                                .toList(),
                        (a, b) -> a));
        Optional<CredentialStore.Retired> retired = credentials.retired(door.credential());
        SenderSlip slip = new SenderSlip(
                wanted.get(),
                retired.flatMap(one -> HttpCredential.of(one.credential())).orElse(null),
                retired.map(CredentialStore.Retired::until).orElse(null),
                others);
        return slip.find(call.question.headers::get, call.question.refusal);
    }

    @Override
    public void start() {
        examiner = Thread.ofVirtual().name("refused-calls").start(this::examine);
    }

    @Override
    public void stop() {
        Thread running = examiner;
        examiner = null;
        if (running != null) {
            running.interrupt();
        }
    }

    @Override
    public boolean isRunning() {
        return examiner != null;
    }
}
