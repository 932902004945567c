package org.holtra.service.introducing;

import java.util.ArrayList;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.Semaphore;
import org.holtra.core.expression.Scope;
import org.holtra.core.introduction.Recipe;
import org.holtra.core.introduction.RecipeStep;
import org.holtra.core.introduction.StepName;
import org.holtra.core.introduction.StepOutcome;
import org.holtra.core.introduction.There;
import org.holtra.core.setup.Outlet;
import org.holtra.core.setup.Setup;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.dispatch.Dispatcher;
import org.holtra.service.dispatch.Sink;
import org.holtra.service.introductions.Introductions;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/** Looks what introducing devices would come to: finds them at the destination, and changes nothing there. */
@Component
public class DryRun {

    /** So many devices are looked at, the first by key. */
    public static final int MOST = 1_000;

    private static final int REASONS_TOLD = 100;

    /** What would become of a device. */
    public enum Fate {
        KNOWN("known already"),
        EXISTS("exists already"),
        CREATE("would create"),
        NAME_TAKEN("name taken"),
        LACKS_FACT("lacks a fact"),
        REFUSED("refused");

        private final String word;

        Fate(String word) {
            this.word = word;
        }

        public String word() {
            return word;
        }
    }

    /** @param reason null where there is nothing to explain */
    public record Finding(String device, String name, String fate, String reason) {}

    /**
     * @param chosen how many devices were chosen; not more than {@link #MOST} are looked at
     * @param counts of devices by what would become of them
     * @param findings of those that need a look by a person, the first hundred
     * @param monthly what those that would be created cost in a month, or null
     */
    public record Report(
            int chosen,
            int lookedAt,
            Map<String, Long> counts,
            List<Finding> findings,
            Double monthly,
            String currency) {}

    private final ChosenDevices chosen;
    private final StepScope scopes;
    private final StepExchange exchange;
    private final Introductions introductions;
    private final Ways ways;

    /** How the destination is asked. */
    @Component
    record Ways(Dispatcher dispatcher, Setups setups) {}

    DryRun(ChosenDevices chosen, StepScope scopes, StepExchange exchange, Introductions introductions, Ways ways) {
        this.chosen = chosen;
        this.scopes = scopes;
        this.exchange = exchange;
        this.introductions = introductions;
        this.ways = ways;
    }

    /**
     * @param outlet as it is, or as somebody wants it to be
     * @throws IllegalArgumentException if the choice cannot be understood, with a sentence for people
     */
    public Report of(Outlet outlet, DeviceChoice choice) {
        List<String> keys = chosen.of(choice);
        List<String> looked = keys.subList(0, Math.min(MOST, keys.size()));
        List<Found> all = ways.dispatcher.apart(outlet, sink -> look(outlet, looked, sink));
        Map<Fate, Long> counts = new EnumMap<>(Fate.class);
        all.forEach(found -> counts.merge(found.fate, 1L, Long::sum));
        Map<String, Long> told = new java.util.LinkedHashMap<>();
        counts.forEach((fate, count) -> told.put(fate.word, count));
        double device = outlet.price() == null ? 0 : outlet.price().device();
        return new Report(
                keys.size(),
                looked.size(),
                told,
                all.stream()
                        .filter(found -> found.fate != Fate.KNOWN && found.fate != Fate.CREATE)
                        .limit(REASONS_TOLD)
                        .map(found -> new Finding(found.device, found.name, found.fate.word, found.reason))
                        .toList(),
                device == 0 || !counts.containsKey(Fate.CREATE) ? null : counts.get(Fate.CREATE) * device,
                device == 0 ? null : outlet.price().currency());
    }

    private record Found(String device, String name, Fate fate, String reason) {}

    private List<Found> look(Outlet outlet, List<String> keys, Sink sink) {
        Setup setup = ways.setups.current();
        Semaphore atOnce = new Semaphore(outlet.recipe().manner().atOnce());
        List<Future<Found>> all = new ArrayList<>();
        try (ExecutorService threads = Executors.newVirtualThreadPerTaskExecutor()) {
            for (String key : keys) {
                all.add(threads.submit(() -> {
                    atOnce.acquire();
                    try {
                        return look(outlet, key, setup, sink);
                    } finally {
                        atOnce.release();
                    }
                }));
            }
        }
        return all.stream().map(DryRun::result).toList();
    }

    private static Found result(Future<Found> future) {
        try {
            return future.get();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException("the dry run was interrupted", e);
        } catch (ExecutionException e) {
            throw new IllegalStateException(
                    "the dry run failed: " + e.getCause().getMessage(), e.getCause());
        }
    }

    private Found look(Outlet outlet, String key, Setup setup, Sink sink) {
        if (introductions.known(outlet.name(), key).isPresent()) {
            return new Found(key, null, Fate.KNOWN, null);
        }
        Recipe recipe = outlet.recipe();
        Scope scope = scopes.of(key, setup);
        There there = new There(key, null, Map.of());
        try {
            there = recipe.named(scope, key);
            AllSteps.fill(recipe, there, scope);
            RecipeStep.Result found = asked(recipe, StepName.FIND, there, scope, outlet, sink);
            if (found != null && !(found.outcome() instanceof StepOutcome.Absent)) {
                return found.outcome() instanceof StepOutcome.Done
                        ? new Found(key, there.name(), Fate.EXISTS, null)
                        : new Found(
                                key, there.name(), Fate.REFUSED, found.outcome().reason());
            }
            RecipeStep.Result taken = asked(recipe, StepName.TAKEN, there, scope, outlet, sink);
            return taken != null && taken.outcome() instanceof StepOutcome.Done
                    ? new Found(key, there.name(), Fate.NAME_TAKEN, "another device there is called " + there.name())
                    : new Found(key, there.name(), Fate.CREATE, null);
        } catch (ShapeFailure e) {
            return new Found(key, there.name(), Fate.LACKS_FACT, e.getMessage());
        }
    }

    /** @return null if the recipe has no such step */
    private RecipeStep.Result asked(Recipe recipe, StepName name, There there, Scope scope, Outlet outlet, Sink sink)
            throws ShapeFailure {
        RecipeStep step = recipe.steps().get(name);
        return step == null
                ? null
                : exchange.make(outlet, step, there.in(scope), outlet.name() + "/dry run/" + there.name(), 1, sink)
                        .result();
    }
}
