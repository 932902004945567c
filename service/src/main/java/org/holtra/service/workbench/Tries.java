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
import org.holtra.core.reading.Meta;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.core.shape.Content;
import org.holtra.core.shape.Shape;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.dispatch.Attempter;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.Request;
import org.holtra.service.reading.Readings;
import org.springframework.stereotype.Component;

/** Runs one message through a lane that is being worked on. Sends nothing. */
@Component
class Tries {

    private final Bench bench;
    private final Subjects subjects;
    private final Sendables sendables;
    private final Dispatcher dispatcher;
    private final Cautions cautions;

    Tries(Bench bench, Subjects subjects, Sendables sendables, Dispatcher dispatcher, Cautions cautions) {
        this.bench = bench;
        this.subjects = subjects;
        this.sendables = sendables;
        this.dispatcher = dispatcher;
        this.cautions = cautions;
    }

    /**
     * @param fields of the lane; null for the active one
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

    private Tried tried(Lane lane, Subjects.Subject subject) throws UnreadableContent {
        Setup setup = bench.setup();
        Model model = Readings.model(subject.device(), setup);
        Scope scope = sendables.scope(subject, setup);
        String whyNot = whyNot(lane, subject, scope, model);
        Sendables.Found found = sendables.of(lane, setup, subject, scope);
        List<Tried.Request> requests = new ArrayList<>();
        Set<String> warnings = new LinkedHashSet<>(cautions.about(lane, scope, model));
        for (Sendables.Sendable one : found.all()) {
            requests.add(request(lane, one, warnings));
            lane.shape().leftOut(one.scope()).forEach(left -> warnings.add(leftOut(left, one.point())));
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
                found.becomes(),
                explanation(
                        lane, Points.scope(scope, model, found.all().getFirst().point())),
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

    private Tried.Request request(Lane lane, Sendables.Sendable one, Set<String> warnings) {
        String point = one.point();
        Content content;
        Optional<Exchange> preview;
        try {
            content = lane.shape().fill(one.scope());
            warnings.addAll(cautions.about(lane, content));
            preview = dispatcher.preview(
                    lane.outlet(),
                    asked(lane, one, content, false)
                            .presenting(sendables.shown(bench.setup().outlets().get(lane.outlet()), one)));
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
                preview.map(Exchange::summary).orElse(null),
                preview.map(Exchange::fields).orElse(Map.of()),
                text,
                text == null ? Base64.getEncoder().encodeToString(content.body()) : null,
                content.body().length);
    }

    static Request asked(Lane lane, Sendables.Sendable one, Content content, boolean trial) {
        String key = one.message().id() + "." + lane.name() + (one.point() == null ? "" : "." + one.point());
        return Request.of(
                new Request.Part(content, trial ? key + ".trial" : key),
                Attempter.traceparent(one.message()),
                1,
                Request.Marks.tried(
                        one.message().simulated(), one.scope().meta().containsKey(Meta.LATE), trial));
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
