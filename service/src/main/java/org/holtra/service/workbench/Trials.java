package org.holtra.service.workbench;

import java.time.Instant;
import java.time.InstantSource;
import java.util.Map;
import org.holtra.core.expression.Scope;
import org.holtra.core.message.MessageIds;
import org.holtra.core.picking.Points;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.core.shape.Content;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.dispatch.Attempted;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.dispatch.NotPresented;
import org.holtra.service.dispatch.Presented;
import org.holtra.service.dispatch.SentRequest;
import org.holtra.service.journal.Journal;
import org.holtra.service.journal.entry.AttemptRow;
import org.holtra.service.reading.Readings;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** Sends one message through a lane that is being worked on, because a person said so; traced, and settling nothing. */
@Component
class Trials {

    /** @param message whose trace tells of it */
    record Sent(String message, String verdict, String reason, String code, String answer, long micros, String point) {}

    private final Bench bench;
    private final Subjects subjects;
    private final Sendables sendables;
    private final Ways ways;
    private final InstantSource clock;

    /** What a trial is sent and written down by. */
    @Component
    record Ways(Dispatcher dispatcher, Journal journal, MessageIds ids) {}

    Trials(Bench bench, Subjects subjects, Sendables sendables, Ways ways, InstantSource clock) {
        this.bench = bench;
        this.subjects = subjects;
        this.sendables = sendables;
        this.ways = ways;
        this.clock = clock;
    }

    /** @throws IllegalArgumentException if it cannot be sent, with the reason */
    Sent send(String name, Map<String, Object> fields, Subjects.Wanted wanted, String point) {
        SetupCompiler.LaneResult compiled = bench.lane(name, fields);
        Lane lane = compiled.lane()
                .orElseThrow(() -> new IllegalArgumentException(
                        "The lane has errors: " + compiled.problems().getFirst().what()));
        Setup setup = bench.setup();
        Outlet outlet = setup.outlets().get(lane.outlet());
        if (outlet.closed()) {
            throw new IllegalArgumentException("Outlet `" + outlet.name() + "` is closed; open it first.");
        }
        try {
            Subjects.Subject subject = subjects.of(wanted);
            Sendables.Sendable one = chosen(lane, setup, subject, point);
            return sent(lane, subject, one, lane.shape().fill(one.scope()), setup);
        } catch (UnreadableContent | ShapeFailure e) {
            throw new IllegalArgumentException(sentence(e.getMessage()));
        }
    }

    private Sendables.Sendable chosen(Lane lane, Setup setup, Subjects.Subject subject, String point)
            throws UnreadableContent {
        Scope scope = sendables.scope(subject, setup);
        return sendables.of(lane, setup, subject, scope).all().stream()
                .filter(one -> point == null || point.equals(one.point()))
                .findFirst()
                .orElseGet(() -> new Sendables.Sendable(
                        point, subject.stored(), Points.scope(scope, Readings.model(subject.device(), setup), point)));
    }

    private Sent sent(Lane lane, Subjects.Subject subject, Sendables.Sendable one, Content content, Setup setup) {
        if (subject.pasted()) {
            ways.journal.addPasted(subject.stored());
        }
        Presented presented;
        try {
            presented = sendables.presented(setup.outlets().get(lane.outlet()), one);
        } catch (NotPresented e) {
            throw new IllegalArgumentException(sentence(e.getMessage()));
        }
        Instant start = clock.instant();
        long began = System.nanoTime();
        Attempted attempted = ways.dispatcher
                .trial(lane.outlet(), Tries.asked(lane, one, content, true).presenting(presented))
                .orElseThrow(() -> new IllegalArgumentException("Outlet `" + lane.outlet() + "` is not there."));
        long micros = (System.nanoTime() - began) / 1_000;
        String reason = attempted.verdict().reason();
        ways.journal.addTrial(new AttemptRow(
                ways.ids.next().value(),
                subject.stored().id().value(),
                subject.stored().id().received(),
                lane.name(),
                lane.outlet(),
                1,
                start,
                micros,
                attempted.verdict().word(),
                reason,
                attempted.code(),
                null,
                setup.revision(),
                JsonMapper.shared().writeValueAsBytes(SentRequest.of(attempted.exchange())),
                content.body(),
                attempted.exchange().answer(),
                one.point(),
                true,
                null));
        return new Sent(
                subject.stored().id().toString(),
                attempted.verdict().word(),
                reason,
                attempted.code(),
                attempted.exchange().answer() == null
                        ? null
                        : new String(attempted.exchange().answer(), java.nio.charset.StandardCharsets.UTF_8),
                micros,
                one.point());
    }

    private static String sentence(String text) {
        return Character.toUpperCase(text.charAt(0)) + text.substring(1) + ".";
    }
}
