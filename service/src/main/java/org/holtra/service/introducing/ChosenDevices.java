package org.holtra.service.introducing;

import java.util.ArrayList;
import java.util.List;
import java.util.function.Predicate;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.holtra.core.expression.Condition;
import org.holtra.core.expression.ExpressionProblem;
import org.holtra.core.expression.Scope;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.compile.SetupCompiler;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/** Finds the devices that somebody chose. */
@Component
class ChosenDevices {

    private final DeviceRegistry registry;
    private final StepScope scopes;
    private final Setups setups;
    private final SetupCompiler compiler;

    ChosenDevices(DeviceRegistry registry, StepScope scopes, Setups setups, SetupCompiler compiler) {
        this.registry = registry;
        this.scopes = scopes;
        this.setups = setups;
        this.compiler = compiler;
    }

    /**
     * Their keys, in order. Barred devices are left out.
     *
     * @throws IllegalArgumentException if the choice cannot be understood, with a sentence for people
     */
    List<String> of(DeviceChoice choice) {
        if (choice.keys() != null) {
            List<String> missing = choice.keys().stream()
                    .filter(key -> registry.find(key).isEmpty())
                    .toList();
            if (!missing.isEmpty()) {
                throw new IllegalArgumentException("There is no device " + String.join(", ", missing) + ".");
            }
        }
        Predicate<String> fits = fits(choice);
        List<String> keys = new ArrayList<>();
        for (Device device : registry.all()) {
            if (!device.barred() && fits.test(device.key())) {
                keys.add(device.key());
            }
        }
        return keys;
    }

    private Predicate<String> fits(DeviceChoice choice) {
        if (choice.keys() != null) {
            return List.copyOf(choice.keys())::contains;
        }
        if (choice.pattern() != null) {
            return pattern(choice.pattern()).asMatchPredicate();
        }
        if (choice.where() == null || choice.where().isBlank()) {
            return key -> true;
        }
        Setup setup = setups.current();
        Condition where;
        try {
            where = compiler.expressions(setup).condition(choice.where());
        } catch (ExpressionProblem e) {
            throw new IllegalArgumentException("The condition has an error: " + e.getMessage() + ".");
        }
        return key -> {
            Scope scope = scopes.of(key, setup);
            return where.holds(scope);
        };
    }

    static Pattern pattern(String text) {
        return Pattern.compile(
                Stream.of(text.split("\\*", -1)).map(Pattern::quote).collect(Collectors.joining(".*")));
    }
}
