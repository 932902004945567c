package org.holtra.core.setup.compile;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.delivery.Answer;
import org.holtra.core.delivery.Batch;
import org.holtra.core.delivery.Pace;
import org.holtra.core.delivery.VerdictRules;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.Expression;
import org.holtra.core.introduction.Recipe;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.document.SetupDocument;
import org.holtra.core.setup.schema.Kind;

/** Compiles outlets. */
public final class OutletParts {

    private final Pieces pieces;
    private final Pieces plain;
    private final ConnectionParts connections;
    private final Map<String, Kind> kinds;

    OutletParts(Pieces pieces, ConnectionParts connections, Map<String, Kind> kinds) {
        this.plain = pieces;
        this.kinds = kinds;
        this.pieces = pieces.withVariable(Answer.VARIABLE);
        this.connections = connections;
    }

    Outlet outlet(String name, Map<String, Object> fields) {
        Map<String, Object> price = SetupDocument.block(fields.get("price"));
        String kind = Pieces.text(fields, "kind");
        Map<String, Object> settings = SetupDocument.block(fields.get("to"));
        return new Outlet(
                name,
                kind,
                Pieces.closed(fields),
                settings,
                connections.shared(kind, settings, "/outlets/" + name + "/to"),
                Pieces.text(fields, "preset"),
                price.isEmpty()
                        ? null
                        : new Outlet.Price(
                                Pieces.text(price, "currency"),
                                orNothing(price, "message"),
                                orNothing(price, "megabyte"),
                                orNothing(price, "month"),
                                orNothing(price, "device")),
                new Outlet.Manner(
                        rules(fields.get("verdicts"), "/outlets/" + name + "/verdicts"),
                        pace(SetupDocument.block(fields.get("pace"))),
                        batch(fields.get("batch"), "/outlets/" + name + "/batch"),
                        recipe(kind, fields.get("introduction"), "/outlets/" + name + "/introduction"),
                        choice(fields, "/outlets/" + name)));
    }

    private Outlet.CredentialChoice choice(Map<String, Object> fields, String pointer) {
        Expression expression = plain.expression(fields, "credentialBy", pointer);
        return expression == null ? null : new Outlet.CredentialChoice(expression);
    }

    private Recipe recipe(String name, Object block, String pointer) {
        Kind kind = kinds.get(name);
        if (kind != null && block != null && !kind.introduces()) {
            plain.wrong(pointer, "outlets of kind " + name + " cannot introduce devices");
            return null;
        }
        return kind == null ? null : new RecipeParts(plain, kind.shapeFields()).recipe(block, pointer);
    }

    private Batch batch(Object block, String pointer) {
        if (!(block instanceof Map<?, ?>)) {
            return null;
        }
        Map<String, Object> fields = SetupDocument.block(block);
        return new Batch(
                Optional.ofNullable(whole(fields, "messages"))
                        .orElse((long) Batch.USUAL_MESSAGES)
                        .intValue(),
                Optional.ofNullable(whole(fields, "bytes"))
                        .orElse((long) Batch.USUAL_BYTES)
                        .intValue(),
                Pieces.span(fields, "wait", Batch.USUAL_PATIENCE),
                Pieces.text(fields, "as"),
                pieces.expression(fields, "answers", pointer));
    }

    private VerdictRules rules(Object list, String pointer) {
        List<VerdictRules.Rule> rules = new ArrayList<>();
        if (list instanceof List<?> all) {
            for (int i = 0; i < all.size(); i++) {
                Map<String, Object> rule = SetupDocument.block(all.get(i));
                Condition when = pieces.condition(rule, "when", pointer + "/" + i);
                Duration after = Pieces.span(rule, "after", null);
                VerdictRules.Meaning.of(Pieces.text(rule, "is"))
                        .filter(meaning -> when != null)
                        .ifPresent(meaning ->
                                rules.add(new VerdictRules.Rule(when, meaning, after, Pieces.text(rule, "because"))));
            }
        }
        return new VerdictRules(rules);
    }

    private static Pace pace(Map<String, Object> fields) {
        return new Pace(Pieces.number(fields, "perSecond"), whole(fields, "perDay"), whole(fields, "perMonth"));
    }

    private static Long whole(Map<String, Object> fields, String name) {
        Double number = Pieces.number(fields, name);
        return number == null ? null : (Long) number.longValue();
    }

    private static double orNothing(Map<String, Object> fields, String name) {
        Double number = Pieces.number(fields, name);
        return number == null ? 0 : number;
    }
}
