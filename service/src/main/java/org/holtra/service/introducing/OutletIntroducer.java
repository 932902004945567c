package org.holtra.service.introducing;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.locks.LockSupport;
import java.util.concurrent.locks.ReentrantLock;
import org.holtra.core.introduction.Recipe;
import org.holtra.core.introduction.StepOutcome;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.service.connections.Thing;
import org.holtra.service.devices.DeviceEvent;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.introductions.Introducers;
import org.holtra.service.introductions.Introduction;
import org.holtra.service.introductions.IntroductionState;
import org.holtra.service.journal.JournalUnavailable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.transaction.TransactionException;

/**
 * Introduces devices at one outlet, so many at once as its recipe allows, as long as this node is the one that does. What is
 * refused for all alike, such as for want of a right, stops it for a while; then one device is tried. Removals are stopped apart:
 * they need another right.
 */
final class OutletIntroducer {

    private static final int PAGE = 500;

    /** Of so many ticks one asks whether this node is the one that introduces. */
    private static final int TICKS_BETWEEN_CLAIMS = 4;

    /** So many are under way for each exchange that may be: some of them are being written down. */
    private static final int DEVICES_FOR_EACH_EXCHANGE = 2;

    private static final Duration TROUBLE = Duration.ofSeconds(2);
    private static final Logger log = LoggerFactory.getLogger(OutletIntroducer.class);

    private final String outlet;
    private final IntroducerContext context;
    private final ReentrantLock lock = new ReentrantLock();

    // Guarded by the lock.
    private final Line introductions = new Line("introductions");
    private final Line removals = new Line("removals");
    private final Set<String> inHand = new HashSet<>();
    private UUID owner;
    private boolean isPaused;
    private boolean closed;
    private int ticks;
    private LimitedExchanges exchanges = new LimitedExchanges(Recipe.Manner.USUAL_AT_ONCE);
    private long nextExchange = System.nanoTime();

    /** Devices that wait for the same, and what stands in the way of all of them. */
    private static final class Line {

        private final String what;
        private final Deque<Introduction> waiting = new ArrayDeque<>();
        private boolean more;
        private int underWay;
        private String stopped;
        private Instant stoppedUntil = Instant.EPOCH;

        Line(String what) {
            this.what = what;
        }

        void mended() {
            stopped = null;
            stoppedUntil = Instant.EPOCH;
            more = true;
        }

        boolean mayGo(int atOnce, Instant now) {
            return stopped == null ? underWay < atOnce : underWay == 0 && !now.isBefore(stoppedUntil);
        }
    }

    OutletIntroducer(String outlet, IntroducerContext context) {
        this.outlet = outlet;
        this.context = context;
    }

    /** Called every so often. */
    void tick() {
        boolean claims;
        lock.lock();
        try {
            claims = ticks++ % TICKS_BETWEEN_CLAIMS == 0;
        } finally {
            lock.unlock();
        }
        if (claims) {
            claim();
        }
        look();
        pump();
    }

    private void claim() {
        Introducers.Standing standing = context.introducers().claim(outlet);
        lock.lock();
        try {
            owner = standing.owner();
            isPaused = standing.paused() != null;
            if (owner == null || isPaused) {
                for (Line line : lines()) {
                    line.waiting.forEach(one -> inHand.remove(one.device()));
                    line.waiting.clear();
                }
            }
        } finally {
            lock.unlock();
        }
    }

    private List<Line> lines() {
        return List.of(introductions, removals);
    }

    void look() {
        lock.lock();
        try {
            lines().forEach(line -> line.more = true);
        } finally {
            lock.unlock();
        }
    }

    /** A person or a change may have mended what was refused. */
    void mended() {
        lock.lock();
        try {
            lines().forEach(Line::mended);
        } finally {
            lock.unlock();
        }
    }

    String standsStill() {
        lock.lock();
        try {
            return introductions.stopped == null ? removals.stopped : introductions.stopped;
        } finally {
            lock.unlock();
        }
    }

    void close() {
        lock.lock();
        try {
            closed = true;
        } finally {
            lock.unlock();
        }
    }

    private void pump() {
        for (Line line : lines()) {
            refill(line);
            pump(line);
        }
    }

    private void pump(Line line) {
        Setup setup = context.work().setups().current();
        Outlet at = setup.outlets().get(outlet);
        if (at == null || at.recipe() == null || at.closed()) {
            return;
        }
        while (true) {
            Introduction next;
            lock.lock();
            try {
                if (!mayGo(line, at.recipe()) || line.waiting.isEmpty()) {
                    return;
                }
                next = line.waiting.poll();
                line.underWay++;
            } finally {
                lock.unlock();
            }
            Thread.ofVirtual().name("introduce-" + outlet).start(() -> introduce(next, line));
        }
    }

    private boolean mayGo(Line line, Recipe recipe) {
        return !closed
                && !isPaused
                && context.introducers().holds(owner)
                && line.mayGo(
                        DEVICES_FOR_EACH_EXCHANGE * recipe.manner().atOnce(),
                        context.clock().instant());
    }

    private void refill(Line line) {
        lock.lock();
        try {
            if (!line.more || closed || isPaused || owner == null || line.waiting.size() > PAGE / 2) {
                return;
            }
            List<Introduction> due = context.work().introductions().due(outlet, line == removals, PAGE);
            line.more = due.size() == PAGE;
            for (Introduction one : due) {
                if (inHand.add(one.device())) {
                    line.waiting.add(one);
                }
            }
        } finally {
            lock.unlock();
        }
    }

    private void introduce(Introduction one, Line line) {
        try {
            Introduction at = one;
            while (at != null) {
                at = step(at, line);
            }
        } catch (DataAccessException | TransactionException | JournalUnavailable e) {
            log.debug("Device {} could not be introduced at {} yet: {}", one.device(), outlet, e.getMessage());
            pauseAfterTrouble();
        } catch (RuntimeException | Error e) {
            log.error("Device {} could not be introduced at {}", one.device(), outlet, e);
            pauseAfterTrouble();
        } finally {
            lock.lock();
            try {
                line.underWay--;
                inHand.remove(one.device());
            } finally {
                lock.unlock();
            }
        }
        try {
            pump();
        } catch (DataAccessException | TransactionException e) {
            log.debug("What is to be introduced at {} could not be looked for: {}", outlet, e.getMessage());
        }
    }

    private static void pauseAfterTrouble() {
        LockSupport.parkNanos(TROUBLE.toNanos());
    }

    /** The device as it stands after its next step; null if that is the last for now. */
    private Introduction step(Introduction one, Line line) {
        Setup setup = context.work().setups().current();
        Outlet at = setup.outlets().get(outlet);
        if (at == null || at.recipe() == null || !goesOn(at.recipe())) {
            return null;
        }
        Optional<IntroductionRun.Stepped> stepped = context.work()
                .dispatcher()
                .through(
                        outlet,
                        (Sink sink) -> context.work()
                                .run()
                                .step(one, at, setup, exchanges(at.recipe()).through(sink)))
                .orElse(Optional.empty());
        if (stepped.isEmpty()) {
            return null;
        }
        Introduction now = stepped.get().now();
        weigh(line, stepped.get());
        if (now == null || now.state() != IntroductionState.INTRODUCING || now.refusal() != null) {
            if (now != null) {
                tell(one, now);
            }
            boolean goesOn = now != null
                    && now.state() == IntroductionState.INTRODUCING
                    && !now.progress().next().isAfter(context.clock().instant());
            return goesOn ? now : null;
        }
        return now;
    }

    private LimitedExchanges exchanges(Recipe recipe) {
        lock.lock();
        try {
            if (exchanges.atOnce() != recipe.manner().atOnce()) {
                exchanges = new LimitedExchanges(recipe.manner().atOnce());
            }
            return exchanges;
        } finally {
            lock.unlock();
        }
    }

    /** Waits for its turn by the pace; false if this node is not to go on. */
    private boolean goesOn(Recipe recipe) {
        Double perSecond = recipe.manner().perSecond();
        long wait = 0;
        lock.lock();
        try {
            if (perSecond != null) {
                long now = System.nanoTime();
                long turn = Math.max(now, nextExchange);
                nextExchange = turn + (long) (1e9 / perSecond);
                wait = turn - now;
            }
        } finally {
            lock.unlock();
        }
        if (wait > 0) {
            LockSupport.parkNanos(wait);
        }
        lock.lock();
        try {
            return !closed && !isPaused && context.introducers().holds(owner);
        } finally {
            lock.unlock();
        }
    }

    private void weigh(Line its, IntroductionRun.Stepped stepped) {
        String told;
        boolean goesOn;
        lock.lock();
        try {
            Introduction now = stepped.now();
            boolean general = stepped.outcome() instanceof StepOutcome.Blocked
                    || stepped.outcome() instanceof StepOutcome.Refused refused
                            && refused.why().isGeneral();
            goesOn = its.stopped != null && stepped.outcome() instanceof StepOutcome.Done;
            if (general && now != null) {
                String why = stepped.step().word() + ": " + now.refusal().reason();
                told = why.equals(its.stopped) ? null : its.what + " wait: " + why;
                its.stopped = why;
                its.stoppedUntil = context.clock().instant().plus(NextStep.AGAIN_AFTER_GENERAL_REFUSAL);
            } else if (goesOn) {
                told = its.what + " go on";
                its.stopped = null;
            } else {
                return;
            }
        } finally {
            lock.unlock();
        }
        if (told != null) {
            context.telling().diary().write(Thing.outlet(outlet), told, null);
        }
        if (goesOn) {
            context.work().introductions().again(outlet);
            look();
        }
    }

    private void tell(Introduction before, Introduction now) {
        Instant at = context.clock().instant();
        if (now.isKnown()) {
            context.telling()
                    .events()
                    .publishEvent(new DeviceEvent(
                            now.device(),
                            DeviceEvent.What.KNOWN_AT_OUTLET,
                            at,
                            Map.of(
                                    "outlet",
                                    outlet,
                                    "id",
                                    now.there().id(),
                                    "name",
                                    now.there().name())));
        } else if (now.state() == IntroductionState.REFUSED && before.state() != IntroductionState.REFUSED) {
            context.telling()
                    .events()
                    .publishEvent(new DeviceEvent(
                            now.device(),
                            DeviceEvent.What.HELD_AT_OUTLET,
                            at,
                            Map.of("outlet", outlet, "reason", now.refusal().reason())));
        }
    }
}
