package org.holtra.service.workbench;

import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.holtra.core.expression.Explanation;
import org.holtra.core.expression.ExpressionProblem;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.picking.Picker;
import org.holtra.core.picking.Points;
import org.holtra.core.reading.UnreadableContent;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.SetupCompiler;
import org.holtra.core.shape.Content;
import org.holtra.core.shape.Shape;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.dispatch.Attempter;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.dispatch.Outgoing;
import org.holtra.service.dispatch.Preview;
import org.holtra.service.reading.Readings;
import org.springframework.stereotype.Component;

/** Runs one message through a lane that is being worked on. Sends nothing. */
@Component
class Tries {

    /** A delivery that would be made. */
    record Made(String point, Scope scope, Content content) {}

    private final Bench bench;
    private final Subjects subjects;
    private final Readings readings;
    private final Dispatcher dispatcher;
    private final Cautions cautions;

    Tries(Bench bench, Subjects subjects, Readings readings, Dispatcher dispatcher, Cautions cautions) {
        this.bench = bench;
        this.subjects = subjects;
        this.readings = readings;
        this.dispatcher = dispatcher;
        this.cautions = cautions;
    }

    /**
     * @param fields of the lane; null for the one in force
     * @throws IllegalArgumentException if there is no such lane or message
     */
    Tried of(String name, Map<String, Object> fields, Subjects.Wanted wanted) {
        SetupCompiler.LaneResult compiled = bench.lane(name, fields);
        if (compiled.lane().isEmpty()) {
            return Tried.wrong(compiled.problems());
        }
        Lane lane = compiled.lane().get();
        try {
            return tried(lane, subjects.of(wanted));
        } catch (UnreadableContent e) {
            return Tried.notRead(e.getMessage());
        }
    }

    private Tried tried(Lane lane, Subjects.Subject subject) {
        Setup setup = bench.setup();
        Model model = Readings.model(subject.device(), setup);
        Scope scope = readings.scope(subject.message(), subject.device(), setup);
        String whyNot = whyNot(lane, subject, scope, model);
        // What is not taken is shaped all the same: whoever writes a shape wants to see it fill.
        List<Picker.Take> takes = Picker.takes(lane, scope, model);
        List<String> points = new ArrayList<>();
        takes.forEach(take -> points.add(take.point()));
        if (points.isEmpty()) {
            points.add(
                    lane.perPoint() && model != null && !model.points().isEmpty()
                            ? model.points().keySet().iterator().next()
                            : null);
        }
        List<Tried.Request> requests = new ArrayList<>();
        Set<String> warnings = new LinkedHashSet<>(cautions.about(lane, scope, model));
        if (lane.memory() != null) {
            warnings.add(
                    "the lane has a memory: it sends what it makes of several messages, and this is what it would send"
                            + " for this one alone");
        }
        for (String point : points) {
            Scope seen = Points.scope(scope, model, point);
            requests.add(request(lane, subject, point, seen, warnings));
            lane.shape().leftOut(seen).forEach(one -> warnings.add(leftOut(one, point)));
        }
        return new Tried(
                List.of(),
                null,
                new Tried.Subject(
                        subject.pasted() ? null : subject.stored().id().toString(),
                        subject.stored().arrival().inlet(),
                        Plain.of(scope.data()),
                        plain(scope.meta()),
                        plain(scope.device()),
                        scope.units()),
                whyNot,
                explanation(
                        lane,
                        takes.isEmpty()
                                ? Points.scope(scope, model, points.getFirst())
                                : Points.scope(scope, model, takes.getFirst().point())),
                requests,
                List.copyOf(warnings));
    }

    private static String leftOut(Shape.LeftOut one, String point) {
        return one.where() + " is left out" + (point == null ? "" : " for point " + point) + ": " + one.why();
    }

    private static String whyNot(Lane lane, Subjects.Subject subject, Scope scope, Model model) {
        if (!lane.inlets().contains(subject.stored().arrival().inlet())) {
            return "it does not look at inlet `" + subject.stored().arrival().inlet() + "`";
        }
        if (subject.device() != null && subject.device().barred()) {
            return "the device is barred, so no lane takes its messages";
        }
        return Picker.whyNot(lane, scope, model);
    }

    private Explanation explanation(Lane lane, Scope scope) {
        if (lane.pick() == null) {
            return null;
        }
        try {
            return bench.compiler()
                    .expressions(bench.setup())
                    .explain(lane.pick().source(), scope);
        } catch (ExpressionProblem e) {
            throw new IllegalStateException("a condition that was compiled cannot be compiled", e);
        }
    }

    private Tried.Request request(
            Lane lane, Subjects.Subject subject, String point, Scope scope, Set<String> warnings) {
        Content content;
        Optional<Preview> preview;
        try {
            content = lane.shape().fill(scope);
            warnings.addAll(cautions.about(lane, content));
            preview = dispatcher.preview(lane.outlet(), outgoing(lane, subject, point, content, false));
        } catch (ShapeFailure e) {
            return Tried.Request.failed(point, e.why(), e.where());
        } catch (IllegalArgumentException e) {
            return Tried.Request.failed(point, e.getMessage(), "path");
        }
        String text = text(content.body());
        return new Tried.Request(
                point,
                null,
                null,
                preview.map(Preview::method).orElse(null),
                preview.map(Preview::address).orElse(null),
                preview.map(Preview::head).orElse(null),
                text,
                text == null ? Base64.getEncoder().encodeToString(content.body()) : null,
                content.body().length);
    }

    static Outgoing outgoing(Lane lane, Subjects.Subject subject, String point, Content content, boolean trial) {
        String key = subject.stored().id() + "." + lane.name() + (point == null ? "" : "." + point);
        return new Outgoing(
                content,
                trial ? key + ".trial" : key,
                Attempter.traceparent(subject.stored()),
                1,
                Outgoing.Marks.tried(subject.stored().simulated(), trial),
                List.of());
    }

    private static String text(byte[] body) {
        try {
            return StandardCharsets.UTF_8
                    .newDecoder()
                    .decode(ByteBuffer.wrap(body))
                    .toString();
        } catch (CharacterCodingException e) {
            return null; // it is no text, and is shown as bytes
        }
    }

    private static Map<String, Object> plain(Map<String, ?> map) {
        Map<String, Object> plain = new LinkedHashMap<>();
        map.forEach((name, value) -> plain.put(name, Plain.of(value)));
        return plain;
    }
}
