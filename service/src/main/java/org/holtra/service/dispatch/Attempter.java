package org.holtra.service.dispatch;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HexFormat;
import java.util.Optional;
import java.util.concurrent.ThreadLocalRandom;
import org.holtra.core.delivery.Fate;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.core.delivery.Verdict;
import org.holtra.core.expression.Scope;
import org.holtra.core.message.Message;
import org.holtra.core.message.TraceContext;
import org.holtra.core.reading.Meta;
import org.holtra.core.reading.content.CodecUnavailable;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.core.shape.Content;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.introductions.Introduction;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.journal.Settlement;
import org.holtra.service.journal.entry.AttemptRow;
import org.holtra.service.journal.entry.Delivery;
import org.holtra.service.journal.entry.Replay;
import org.holtra.service.journal.entry.StoredMessage;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.holtra.service.tracing.Journeys;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.slf4j.MDC;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;
import tools.jackson.databind.json.JsonMapper;

/** Makes one attempt of a delivery: shapes its content by the newest lane and facts, sends it, and weighs the verdict. */
@Component
public class Attempter {

    private static final Logger log = LoggerFactory.getLogger(Attempter.class);

    /** @param verdict null if there was nothing to send */
    record Result(Settlement settlement, Verdict verdict) {}

    /** A delivery whose message cannot be read again for want of its codec waits so long. */
    private static final Duration UNTIL_CODEC_IS_TRIED = Duration.ofSeconds(10);

    private static final JsonMapper JSON = JsonMapper.shared();

    private final Setups setups;
    private final DeviceRegistry devices;
    private final InstantSource clock;
    private final Readings readings;
    private final Watch watch;

    /** Who is told of attempts. */
    @Component
    record Watch(AttemptTimes times, Journeys journeys, Introductions introductions, Presenting presenting) {}

    Attempter(Setups setups, DeviceRegistry devices, Readings readings, Watch watch, InstantSource clock) {
        this.watch = watch;
        this.setups = setups;
        this.devices = devices;
        this.readings = readings;
        this.clock = clock;
    }

    /**
     * A delivery with what is to be sent for it.
     *
     * @param shown who it is sent for
     * @param number counts the attempts of the delivery, from 1
     * @param span of this attempt, 16 hexadecimal digits
     */
    record Ready(Task task, Lane lane, int setupRevision, Content content, Shown shown, int number, String span) {

        Ready again() {
            return new Ready(task, lane, setupRevision, content, shown, number + 1, newSpan());
        }

        /** What it presents in place of the outlet's credential; null for that. */
        Presented presented() {
            return shown.presented;
        }

        /** As it goes by itself. */
        Request request() {
            Delivery delivery = task.delivery();
            return Request.of(part(), trace(delivery.message()).traceparent(span), number, Request.Marks.of(delivery))
                    .presenting(presented());
        }

        /** As it stands in a request. */
        Request.Part part() {
            return new Request.Part(content, task.delivery().idempotencyKey());
        }
    }

    /**
     * Who something is sent for.
     *
     * @param known how the device is known at the destination; null if it need not be
     * @param presented in place of the outlet's credential; null for that
     */
    record Shown(Introduction known, Presented presented) {}

    /** When something was sent, and how long it took. */
    record Taken(Instant at, long micros, OutletHealth health) {}

    /** Fills the content by the newest lane and facts, or says why there is none. */
    Readied ready(Task task) {
        Setup setup = setups.current();
        Lane lane = setup.lanes().get(task.lane());
        if (lane == null) {
            return new Readied(null, dead(task, "lane removed", "its lane is no longer there"));
        }
        try {
            int number = task.delivery().owed().attempts() + 1;
            // A dead letter may have been sent elsewhere than its lane goes.
            String outlet = task.delivery().owed().outlet();
            Introduction known =
                    watch.introductions.known(outlet, task.device()).orElse(null);
            Content content = content(task, lane, known);
            Shown shown = new Shown(known, presented(setup.outlets().get(outlet), known, task.device(), setup));
            return new Readied(new Ready(task, lane, setup.revision(), content, shown, number, newSpan()), null);
        } catch (NotPresented e) {
            return new Readied(null, notPresented(task, lane, e.verdict()));
        } catch (CodecUnavailable e) {
            Instant now = clock.instant();
            return new Readied(
                    null,
                    new Result(
                            Settlement.released(
                                    task.delivery().owed(), now.plus(UNTIL_CODEC_IS_TRIED), e.getMessage(), now),
                            null));
        } catch (ShapeFailure | UnreadableContent e) {
            return new Readied(null, dead(task, "could not be shaped", e.getMessage()));
        } catch (DataAccessException | TransactionException e) {
            throw e; // of the database; the delivery waits until it is back
        } catch (RuntimeException | StackOverflowError e) {
            // Else it would be tried again for ever, and keep those behind it waiting.
            log.error(
                    "The content of delivery {} could not be made",
                    task.delivery().id(),
                    e);
            return new Readied(
                    null,
                    dead(
                            task,
                            "could not be shaped",
                            "Holtra failed to make its content, which is a defect of Holtra's: " + e));
        }
    }

    private Presented presented(Outlet outlet, Introduction known, String key, Setup setup) throws NotPresented {
        if (outlet == null) {
            return null; // it was removed this moment, and what is left of it ends by the old setup
        }
        if (outlet.credentialBy() == null) {
            return watch.presenting.of(outlet, known, null);
        }
        Device device = key == null ? null : devices.find(key).orElse(null);
        return watch.presenting.of(outlet, known, readings.scopeOf(device, setup));
    }

    /** Nothing was sent: it waits for the credential, and does not count as an attempt. */
    private Result notPresented(Task task, Lane lane, Verdict verdict) {
        Instant now = clock.instant();
        Instant due = verdict instanceof Verdict.DeviceHeld
                ? now.plus(Fate.HELD)
                : now.plus(lane.retry().delay(1, ThreadLocalRandom.current()));
        return new Result(
                Settlement.released(
                        task.delivery().owed(),
                        verdict instanceof Verdict.OutletBlocked ? now : due,
                        verdict.reason(),
                        now),
                verdict);
    }

    /** One of both. */
    record Readied(Ready ready, Result not) {}

    Result dead(Task task, String cause, String reason) {
        return new Result(dead(task.delivery(), clock.instant(), cause, reason), null);
    }

    /** @param health of the outlet as the attempt begins */
    Result attempt(Task task, Sink sink, OutletHealth health) {
        Readied readied = ready(task);
        if (readied.ready == null) {
            return readied.not;
        }
        Instant start = clock.instant();
        long began = System.nanoTime();
        Attempted attempted;
        try (MDC.MDCCloseable trace =
                MDC.putCloseable("trace", task.delivery().owed().message().traceId())) {
            attempted = sink.attempt(readied.ready.request());
        }
        long micros = (System.nanoTime() - began) / 1_000;
        return concluded(readied.ready, attempted, new Taken(start, micros, health), null);
    }

    /** @param place where it stood in a batch; null if it went by itself */
    Result concluded(Ready ready, Attempted answered, Taken taken, FrozenContent.Place place) {
        Attempted attempted = watch.presenting.weighed(answered, ready.presented());
        Instant now = clock.instant();
        Delivery delivery = ready.task.delivery();
        watch.times.took(delivery.owed().outlet(), attempted.verdict(), taken.micros);
        if (watch.journeys.isOn()) {
            watch.journeys.attempt(trace(delivery.message()), journey(ready, attempted, taken));
        }
        Lane lane = ready.lane;
        Instant patience = taken.health.patience(now);
        Instant givesUp = Optional.ofNullable(delivery.owed().givesUp())
                .orElseGet(
                        () -> taken.health.patience(taken.at).plus(lane.retry().giveUpAfter()));
        Fate fate = Fate.of(
                attempted.verdict(), ready.number, lane.retry(), givesUp, patience, now, ThreadLocalRandom.current());
        if (ready.shown.known != null) {
            tell(ready.shown.known, attempted.verdict());
        }
        AttemptRow row = row(ready, taken, attempted, fate, place);
        return new Result(settlement(ready, row, attempted, fate, givesUp, place, now), attempted.verdict());
    }

    private void tell(Introduction known, Verdict verdict) {
        try {
            if (verdict instanceof Verdict.DeviceUnknown(String reason)) {
                watch.introductions.gone(known, reason);
            } else if (verdict instanceof Verdict.Delivered && known.progress().anew()) {
                watch.introductions.delivered(known);
            }
        } catch (DataAccessException | TransactionException e) {
            // The attempt was made and must be written down; the next one tells the same of the device.
            log.warn("How device {} stands at {} could not be written", known.device(), known.outlet(), e);
        }
    }

    private static Journeys.Attempt journey(Ready ready, Attempted attempted, Taken taken) {
        Delivery.Owed owed = ready.task.delivery().owed();
        return new Journeys.Attempt(
                ready.span,
                owed.lane(),
                owed.outlet(),
                owed.device(),
                ready.number,
                attempted.verdict().word(),
                attempted.verdict() instanceof Verdict.Delivered
                        ? null
                        : attempted.verdict().reason(),
                attempted.code(),
                taken.at,
                taken.micros);
    }

    /** An attempt that settles nothing: the delivery is tried again at once, in smaller company. */
    Settlement tried(Ready ready, Attempted attempted, Taken taken, FrozenContent.Place place) {
        Instant now = clock.instant();
        AttemptRow row = row(
                ready, taken, attempted, new Fate.Waiting(attempted.verdict().reason(), now), place);
        return new Settlement(ready.task.delivery().owed(), row, Settlement.Kind.TRIED, null, now);
    }

    private Content content(Task task, Lane lane, Introduction known) throws ShapeFailure, UnreadableContent {
        byte[] frozen = task.delivery().owed().frozen();
        if (frozen != null) {
            return FrozenContent.thaw(frozen);
        }
        StoredMessage stored = task.delivery().message();
        Setup setup = setups.current();
        Message message = task.message() != null ? task.message() : readings.again(stored, setup);
        Device device =
                stored.device() == null ? null : devices.find(stored.device()).orElse(null);
        Delivery.Part part = task.delivery().owed().part();
        Message told = part.late() ? message.marked(Meta.LATE, true) : message;
        Scope scope = readings.scope(told, device, setup, part.point());
        return lane.shape().fill(known == null ? scope : known.there().in(scope));
    }

    private static AttemptRow row(Ready ready, Taken taken, Attempted attempted, Fate fate, FrozenContent.Place place) {
        Delivery delivery = ready.task.delivery();
        return new AttemptRow(
                delivery.id(),
                delivery.owed().message().value(),
                delivery.owed().message().received(),
                delivery.owed().lane(),
                delivery.owed().outlet(),
                ready.number,
                taken.at,
                taken.micros,
                attempted.verdict().word(),
                attempted.verdict().reason(),
                attempted.code(),
                fate instanceof Fate.Waiting(String reason, Instant next) ? next : null,
                ready.setupRevision,
                JSON.writeValueAsBytes(SentRequest.of(attempted.exchange(), place)),
                ready.content.body(),
                attempted.exchange().answer(),
                delivery.owed().part().point(),
                false,
                Replay.written(delivery.owed().part().replay()));
    }

    private static Settlement settlement(
            Ready ready,
            AttemptRow attempt,
            Attempted attempted,
            Fate fate,
            Instant givesUp,
            FrozenContent.Place place,
            Instant now) {
        Delivery delivery = ready.task.delivery();
        byte[] frozen = delivery.owed().frozen();
        if (frozen == null && attempted.verdict() instanceof Verdict.TryLater later && later.unknown()) {
            frozen = FrozenContent.freeze(ready.content, place);
        }
        return switch (fate) {
            case Fate.Delivered ignored ->
                new Settlement(
                        owed(delivery, attempt.number(), now, givesUp, null, null),
                        attempt,
                        Settlement.Kind.DELIVERED,
                        null,
                        now);
            case Fate.Waiting(String reason, Instant at) ->
                new Settlement(
                        owed(delivery, attempt.number(), at, givesUp, frozen, reason),
                        attempt,
                        Settlement.Kind.WAITING,
                        null,
                        now);
            case Fate.Dead(String reason) ->
                new Settlement(
                        owed(delivery, attempt.number(), now, givesUp, frozen, reason),
                        attempt,
                        Settlement.Kind.DEAD,
                        attempted.cause(),
                        now);
        };
    }

    private static Settlement dead(Delivery delivery, Instant now, String cause, String reason) {
        Delivery.Owed owed = owed(
                delivery,
                delivery.owed().attempts(),
                now,
                delivery.owed().givesUp(),
                delivery.owed().frozen(),
                reason);
        return new Settlement(owed, null, Settlement.Kind.DEAD, cause, now);
    }

    private static Delivery.Owed owed(
            Delivery delivery, int attempts, Instant due, Instant givesUp, byte[] frozen, String reason) {
        return delivery.owed().after(attempts, due, givesUp, frozen, reason);
    }

    /** The trace of the message, with a new span for the attempt. */
    public static String traceparent(StoredMessage message) {
        return trace(message).traceparent(newSpan());
    }

    private static TraceContext trace(StoredMessage message) {
        return TraceContext.of(message.id(), message.arrival().transport().traceParent());
    }

    private static String newSpan() {
        return HexFormat.of().toHexDigits(ThreadLocalRandom.current().nextLong() | 1);
    }
}
