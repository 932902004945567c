package org.holtra.core.setup.compile;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.document.SetupDocument;
import org.holtra.core.setup.document.SetupProblem;
import org.holtra.core.setup.schema.Kind;
import org.holtra.core.text.Nearest;

/** Whether the credentials that a setup names exist and are of a form that their users can do with. */
public final class CredentialCheck {

    private static final String FIELD = "credential";

    private final Map<String, Kind> kinds;
    private final Map<String, String> forms;
    private final SetupDocument document;
    private final List<SetupProblem> problems = new ArrayList<>();

    CredentialCheck(Map<String, Kind> kinds, Map<String, String> forms, SetupDocument document) {
        this.kinds = kinds;
        this.forms = forms;
        this.document = document;
    }

    List<SetupProblem> problems(Setup setup) {
        setup.inlets().values().forEach(inlet -> {
            Kind kind = kinds.get(inlet.kind());
            check(
                    inlet.at(),
                    kind == null ? Set.of() : kind.inletCredentials(),
                    "/inlets/" + inlet.name() + "/at/" + FIELD);
        });
        setup.outlets().values().forEach(outlet -> {
            Kind kind = kinds.get(outlet.kind());
            check(
                    outlet.to(),
                    kind == null ? Set.of() : kind.outletCredentials(),
                    "/outlets/" + outlet.name() + "/to/" + FIELD);
        });
        setup.connections().values().forEach(connection -> {
            Kind kind = kinds.get(connection.kind());
            check(
                    connection.to(),
                    kind == null ? Set.of() : kind.connectionCredentials(),
                    "/connections/" + connection.name() + "/to/" + FIELD);
        });
        return problems;
    }

    private void check(Map<String, Object> fields, Set<String> fit, String pointer) {
        if (!(fields.get(FIELD) instanceof String name) || fit.isEmpty()) {
            return;
        }
        String form = forms.get(name);
        if (form == null) {
            problems.add(document.problem(
                    pointer,
                    "there is no credential `" + name + "`"
                            + Nearest.of(name, forms.keySet())
                                    .map(near -> "; did you mean `" + near + "`?")
                                    .orElse("; save it first, with `holtra credential set " + name + "`")));
        } else if (!fit.contains(form)) {
            problems.add(document.problem(
                    pointer,
                    "credential `" + name + "` has the form " + form + ", which does not serve here; it should be "
                            + String.join(", ", new TreeSet<>(fit))));
        }
    }
}
