package org.holtra.service.dispatch;

import java.time.Instant;
import java.time.InstantSource;
import java.util.HexFormat;
import java.util.Optional;
import java.util.concurrent.ThreadLocalRandom;
import java.util.regex.Pattern;
import org.holtra.core.delivery.Fate;
import org.holtra.core.delivery.OutletHealth;
import org.holtra.core.delivery.Verdict;
import org.holtra.core.message.Message;
import org.holtra.core.reading.UnreadableContent;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.core.shape.Content;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.journal.AttemptRow;
import org.holtra.service.journal.Delivery;
import org.holtra.service.journal.Settlement;
import org.holtra.service.journal.StoredMessage;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** Makes one attempt of a delivery: shapes its content by the newest lane and facts, sends it, and weighs the verdict. */
@Component
public class Attempter {

    /** @param verdict null if there was nothing to send */
    record Result(Settlement settlement, Verdict verdict) {}

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Pattern TRACEPARENT = Pattern.compile("[0-9a-f]{2}-([0-9a-f]{32})-[0-9a-f]{16}-[0-9a-f]{2}.*");

    private final Setups setups;
    private final DeviceRegistry devices;
    private final InstantSource clock;
    private final Readings readings;

    Attempter(Setups setups, DeviceRegistry devices, Readings readings, InstantSource clock) {
        this.setups = setups;
        this.devices = devices;
        this.readings = readings;
        this.clock = clock;
    }

    /** @param health of the outlet as the attempt begins */
    Result attempt(Job job, Channel channel, OutletHealth health) {
        Delivery delivery = job.delivery();
        Setup setup = setups.current();
        Instant start = clock.instant();
        Lane lane = setup.lanes().get(delivery.owed().lane());
        if (lane == null) {
            return new Result(dead(delivery, start, "lane removed", "its lane is no longer there"), null);
        }
        Content content;
        try {
            content = content(job, lane);
        } catch (ShapeFailure | UnreadableContent e) {
            return new Result(dead(delivery, start, "could not be shaped", e.getMessage()), null);
        }
        int number = delivery.owed().attempts() + 1;
        long began = System.nanoTime();
        Attempted attempted = channel.attempt(new Outgoing(
                content,
                delivery.idempotencyKey(),
                delivery.owed().part().correction() == 0 ? null : delivery.originalKey(),
                traceparent(delivery.message()),
                delivery.message().simulated(),
                number,
                false));
        long micros = (System.nanoTime() - began) / 1_000;
        Instant now = clock.instant();
        Instant patience = health.patience(now);
        Instant givesUp = Optional.ofNullable(delivery.owed().givesUp())
                .orElseGet(() -> health.patience(start).plus(lane.retry().giveUpAfter()));
        Fate fate =
                Fate.of(attempted.verdict(), number, lane.retry(), givesUp, patience, now, ThreadLocalRandom.current());
        AttemptRow row = row(delivery, number, start, micros, attempted, fate, setup.revision(), content);
        return new Result(settlement(delivery, row, attempted, fate, givesUp, content, now), attempted.verdict());
    }

    private Content content(Job job, Lane lane) throws ShapeFailure, UnreadableContent {
        byte[] frozen = job.delivery().owed().frozen();
        if (frozen != null) {
            return FrozenContent.thaw(frozen);
        }
        StoredMessage stored = job.delivery().message();
        Setup setup = setups.current();
        Message message = job.message() != null ? job.message() : readings.again(stored, setup);
        Device device =
                stored.device() == null ? null : devices.find(stored.device()).orElse(null);
        return lane.shape()
                .fill(readings.scope(
                        message, device, setup, job.delivery().owed().part().point()));
    }

    private static AttemptRow row(
            Delivery delivery,
            int number,
            Instant at,
            long micros,
            Attempted attempted,
            Fate fate,
            int revision,
            Content content) {
        return new AttemptRow(
                delivery.id(),
                delivery.owed().message().value(),
                delivery.owed().message().received(),
                delivery.owed().lane(),
                delivery.owed().outlet(),
                number,
                at,
                micros,
                attempted.verdict().word(),
                attempted.verdict().reason(),
                attempted.status(),
                fate instanceof Fate.Waiting(String reason, Instant next) ? next : null,
                revision,
                JSON.writeValueAsBytes(attempted.request()),
                content.body(),
                attempted.answer(),
                delivery.owed().part().point(),
                false);
    }

    private static Settlement settlement(
            Delivery delivery,
            AttemptRow attempt,
            Attempted attempted,
            Fate fate,
            Instant givesUp,
            Content content,
            Instant now) {
        byte[] frozen = delivery.owed().frozen();
        if (frozen == null && attempted.verdict() instanceof Verdict.TryLater later && later.unknown()) {
            frozen = FrozenContent.freeze(content);
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

    /** The trace that came in with the message, or the one that is the message's own; with a new span for the attempt. */
    public static String traceparent(StoredMessage message) {
        String came = message.arrival().headers().getOrDefault("traceparent", "");
        var matcher = TRACEPARENT.matcher(came);
        String trace = matcher.matches() ? matcher.group(1) : message.id().traceId();
        long span = ThreadLocalRandom.current().nextLong() | 1;
        return "00-" + trace + "-" + HexFormat.of().toHexDigits(span) + "-01";
    }
}
