package org.holtra.core.shape;

import java.util.ArrayList;
import java.util.List;
import org.holtra.core.expression.Outcome;
import org.holtra.core.expression.Scope;

/** Finds the optional parts of a tree that vanish for a message. */
final class Absences {

    private final List<Shape.LeftOut> found = new ArrayList<>();

    List<Shape.LeftOut> found() {
        return found;
    }

    void look(Tree tree, Scope scope, String where) {
        switch (tree) {
            case Tree.Fields(List<Tree.Field> fields) -> fields.forEach(field -> look(field, scope, where));
            case Tree.Items(List<Tree> items) -> {
                for (int at = 0; at < items.size(); at++) {
                    look(items.get(at), scope, where + "[" + at + "]");
                }
            }
            case Tree.Each each -> {
                if (each.list().evaluate(scope) instanceof Outcome.Value(Object list) && list instanceof List<?> all) {
                    for (int at = 0; at < all.size(); at++) {
                        look(each.give(), scope.with(each.as(), all.get(at)), where + "[" + at + "]");
                    }
                }
            }
            case Tree.When when -> {
                if (when.condition().holds(scope)) {
                    look(when.give(), scope, where);
                }
            }
            case null, default -> {}
        }
    }

    private void look(Tree.Field field, Scope scope, String where) {
        String name = where + "." + field.name().source();
        if (field.optional()) {
            try {
                if (field.value().fill(scope, name, new Parts()) == null) {
                    found.add(new Shape.LeftOut(name, "its value is null"));
                    return;
                }
            } catch (ShapeFailure failure) {
                if (failure.missing()) {
                    found.add(new Shape.LeftOut(name, failure.why()));
                }
                return;
            }
        }
        look(field.value(), scope, name);
    }
}
