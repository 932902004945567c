package org.holtra.service.introducing;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.delivery.Answer;
import org.holtra.core.expression.Expression;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Plain;
import org.holtra.core.expression.Scope;
import org.holtra.core.introduction.Recipe;
import org.holtra.core.introduction.StepOutcome;
import org.holtra.core.introduction.There;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.introductions.Introductions;
import org.springframework.stereotype.Component;

/** Enters the devices that a destination has in its registry: the other way round. */
@Component
public class RegistryImport {

    /** So many pages are asked for at most. */
    private static final int PAGES = 200;

    private static final int SHOWN = 100;

    /**
     * A device that was found there.
     *
     * @param isKnown whether it is in the registry here
     */
    public record Found(String key, String id, Map<String, Object> facts, boolean isKnown) {}

    /**
     * @param entered how many were entered here; 0 where this is a preview
     * @param found the first hundred
     * @param skipped entries that have no key
     * @param complete whether the last page was reached
     */
    public record Report(int there, int unknown, int entered, int skipped, boolean complete, List<Found> found) {}

    private final DeviceRegistry devices;
    private final Introductions introductions;
    private final StepExchange exchange;
    private final Dispatcher dispatcher;

    RegistryImport(DeviceRegistry devices, Introductions introductions, StepExchange exchange, Dispatcher dispatcher) {
        this.devices = devices;
        this.introductions = introductions;
        this.exchange = exchange;
        this.dispatcher = dispatcher;
    }

    /**
     * Devices that are known here get the facts they lack, and keep those they have.
     *
     * @param model of those that are entered; null for none
     * @param dry whether nothing is entered
     * @throws IllegalArgumentException if the destination cannot be asked, with a sentence for people
     */
    public Report run(Outlet outlet, String model, boolean dry, String by) {
        Listed listed = dispatcher.apart(outlet, sink -> list(outlet, sink));
        int unknown = 0;
        int entered = 0;
        for (Found one : listed.found) {
            unknown += one.isKnown ? 0 : 1;
            if (!dry) {
                enter(one, model, by);
                entered += one.isKnown ? 0 : 1;
                introductions.existed(outlet.name(), one.key, one.id == null ? one.key : one.id, by);
            }
        }
        return new Report(
                listed.found.size(),
                unknown,
                entered,
                listed.skipped,
                listed.complete,
                listed.found.stream().limit(SHOWN).toList());
    }

    private void enter(Found one, String model, String by) {
        Optional<Device> there = devices.find(one.key);
        if (there.isEmpty()) {
            devices.enter(one.key, false, model, one.facts);
            return;
        }
        Device.Knowledge known = there.get().knowledge();
        Map<String, Object> facts = new LinkedHashMap<>(one.facts);
        facts.putAll(known.facts());
        if (!facts.equals(known.facts())) {
            devices.change(one.key, known.with(facts), by);
        }
    }

    private record Listed(List<Found> found, int skipped, boolean complete) {}

    private Listed list(Outlet outlet, Sink sink) {
        Recipe.Listing listing = outlet.recipe().listing();
        List<Found> found = new ArrayList<>();
        int skipped = 0;
        Object next = null;
        for (int page = 0; page < PAGES; page++) {
            Map<String, Object> kept = next == null ? Map.of() : Map.of("next", next);
            Scope scope = new There(outlet.name(), null, kept).in(StepScope.ofNobody(Map.of()));
            Answer answer = answer(outlet, listing, scope, page, sink);
            Scope seen = scope.with(Answer.VARIABLE, answer.seen());
            Object items = value(listing.items(), seen);
            if (!(items instanceof List<?> list)) {
                throw new IllegalArgumentException(
                        "The answer has no list at `" + listing.items().source() + "`.");
            }
            for (Object item : list) {
                Optional<Found> one = found(listing, seen.with(Recipe.ITEM, item));
                one.ifPresent(found::add);
                skipped += one.isEmpty() ? 1 : 0;
            }
            next = listing.next() == null || list.isEmpty() ? null : value(listing.next(), seen);
            if (next == null) {
                return new Listed(found, skipped, true);
            }
        }
        return new Listed(found, skipped, false);
    }

    private Answer answer(Outlet outlet, Recipe.Listing listing, Scope scope, int page, Sink sink) {
        try {
            StepExchange.Made made =
                    exchange.make(outlet, listing.exchange(), scope, outlet.name() + "/list/" + page, 1, sink);
            if (made.result().outcome() instanceof StepOutcome.Done) {
                return made.asked().answer();
            }
            throw new IllegalArgumentException("The devices there cannot be listed: "
                    + made.result().outcome().reason() + ".");
        } catch (ShapeFailure e) {
            throw new IllegalArgumentException("The devices there cannot be listed: " + e.getMessage() + ".");
        }
    }

    private Optional<Found> found(Recipe.Listing listing, Scope item) {
        Object key = value(listing.key(), item);
        if (key == null || Plain.text(key).isBlank()) {
            return Optional.empty();
        }
        Map<String, Object> facts = new LinkedHashMap<>();
        listing.facts().forEach((name, expression) -> {
            Object fact = value(expression, item);
            if (fact != null) {
                facts.put(name, fact);
            }
        });
        Object id = listing.id() == null ? null : value(listing.id(), item);
        String text = Plain.text(key);
        return Optional.of(new Found(
                text,
                id == null ? null : Plain.text(id),
                facts,
                devices.find(text).isPresent()));
    }

    private static Object value(Expression expression, Scope scope) {
        return expression.evaluate(scope) instanceof Outcome.Value(Object value) ? Plain.of(value) : null;
    }
}
