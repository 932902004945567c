package org.holtra.core.expression;

import dev.cel.common.ast.CelConstant;
import dev.cel.common.ast.CelExpr;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** A field an expression reads, as the names from its root, such as {@code data.air.temperature}. */
public record FieldPath(List<String> names) {

    private static final Set<String> ROOTS = Set.of(Scope.DATA, Scope.META, Scope.DEVICE);

    /** All fields read in an expression, in order of appearance; those inside {@code has()} are left out. */
    static Set<FieldPath> in(CelExpr expression) {
        Set<FieldPath> found = new LinkedHashSet<>();
        collect(expression, found);
        return found;
    }

    private static void collect(CelExpr expression, Set<FieldPath> found) {
        Optional<FieldPath> path = of(expression);
        if (path.isPresent()) {
            if (path.get().names.size() > 1) {
                found.add(path.get());
            }
            return;
        }
        switch (expression.getKind()) {
            case SELECT -> {
                if (!expression.select().testOnly()) {
                    collect(expression.select().operand(), found);
                }
            }
            case CALL -> {
                expression.call().target().ifPresent(target -> collect(target, found));
                expression.call().args().forEach(argument -> collect(argument, found));
            }
            case LIST -> expression.list().elements().forEach(element -> collect(element, found));
            case MAP ->
                expression.map().entries().forEach(entry -> {
                    collect(entry.key(), found);
                    collect(entry.value(), found);
                });
            case COMPREHENSION -> collect(expression.comprehension().iterRange(), found);
            default -> {}
        }
    }

    static Optional<FieldPath> of(CelExpr expression) {
        List<String> names = new ArrayList<>();
        CelExpr at = expression;
        while (true) {
            switch (at.getKind()) {
                case IDENT -> {
                    if (!ROOTS.contains(at.ident().name())) {
                        return Optional.empty();
                    }
                    names.addFirst(at.ident().name());
                    return Optional.of(new FieldPath(List.copyOf(names)));
                }
                case SELECT -> {
                    if (at.select().testOnly()) {
                        return Optional.empty();
                    }
                    names.addFirst(at.select().field());
                    at = at.select().operand();
                }
                case CALL -> {
                    Optional<String> key = constantIndex(at);
                    if (key.isEmpty()) {
                        return Optional.empty();
                    }
                    names.addFirst(key.get());
                    at = at.call().args().getFirst();
                }
                default -> {
                    return Optional.empty();
                }
            }
        }
    }

    private static Optional<String> constantIndex(CelExpr expression) {
        if (!expression.call().function().equals("_[_]")) {
            return Optional.empty();
        }
        CelExpr index = expression.call().args().get(1);
        if (index.getKind() != CelExpr.ExprKind.Kind.CONSTANT
                || index.constant().getKind() != CelConstant.Kind.STRING_VALUE) {
            return Optional.empty();
        }
        return Optional.of(index.constant().stringValue());
    }

    /** The value in a scope, or empty if some part of the way is not there. */
    public Optional<Object> value(Scope scope) {
        Object at = scope.root(names.getFirst());
        for (String name : names.subList(1, names.size())) {
            if (!(at instanceof Map<?, ?> map) || !map.containsKey(name)) {
                return Optional.empty();
            }
            at = map.get(name);
        }
        return Optional.ofNullable(at);
    }

    @Override
    public String toString() {
        StringBuilder text = new StringBuilder(names.getFirst());
        for (String name : names.subList(1, names.size())) {
            text.append(name.matches("[A-Za-z_][A-Za-z0-9_]*") ? "." + name : "[\"" + name + "\"]");
        }
        return text.toString();
    }
}
