package org.holtra.core.setup.compile;

import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Lookout;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.document.SetupDocument;
import org.holtra.core.setup.document.SetupProblem;
import org.holtra.core.setup.schema.Kind;
import org.holtra.core.setup.schema.SetupSchema;

/** Checks a setup file as a whole, finding every error at its line, and compiles it if there are none. */
public final class SetupCompiler {

    /** @param setup present only if there are no problems; its revision is 0 until it is adopted */
    public record Result(List<SetupProblem> problems, Optional<Setup> setup) {}

    /** @param lane present only if there are no problems */
    public record LaneResult(List<SetupProblem> problems, Optional<Lane> lane) {}

    /** @param lookout present only if there are no problems */
    public record LookoutResult(List<SetupProblem> problems, Optional<Lookout> lookout) {}

    /** What a lane says of the messages it takes. */
    private static final Set<String> PICKING = Set.of("inlets", "devices", "pick", "per");

    private static final String NOWHERE = "nowhere";

    private final Map<String, Kind> kinds;
    private final SetupSchema schema;
    private final ExpressionCompiler expressions;

    public SetupCompiler(Collection<? extends Kind> kinds, ExpressionCompiler expressions) {
        this.kinds = kinds.stream().collect(Collectors.toMap(Kind::name, kind -> kind));
        this.schema = new SetupSchema(kinds);
        this.expressions = expressions;
    }

    public SetupSchema schema() {
        return schema;
    }

    /** Without regard to whether the credentials it names exist. */
    public Result compile(String yaml) {
        return compile(yaml, null);
    }

    /**
     * @param yaml the text of a setup file
     * @param credentials the form of each credential there is, by name; null to not look at credentials
     */
    public Result compile(String yaml, Map<String, String> credentials) {
        SetupDocument document = SetupDocument.parse(yaml);
        List<SetupProblem> problems = new ArrayList<>(document.problems());
        if (problems.isEmpty()) {
            schema.validate(document.root())
                    .forEach(misfit -> problems.add(document.problem(misfit.pointer(), misfit.what())));
        }
        // What hangs together is looked at part by part, also where another part has the wrong form.
        Parts parts = new Parts(document, expressions, kinds);
        Optional<Setup> setup = Optional.empty();
        if (document.root() instanceof Map<?, ?> root && document.problems().isEmpty()) {
            setup = Optional.of(parts.compile(root));
            problems.addAll(parts.problems());
            if (problems.isEmpty()) {
                problems.addAll(clashes(setup.get(), document));
            }
            if (credentials != null) {
                problems.addAll(new CredentialCheck(kinds, credentials, document).problems(setup.get()));
            }
        }
        List<SetupProblem> sorted = problems.stream()
                .distinct()
                .sorted(Comparator.comparingInt(SetupProblem::line).thenComparingInt(SetupProblem::column))
                .toList();
        return new Result(sorted, sorted.isEmpty() ? setup : Optional.empty());
    }

    /**
     * Compiles one lane by itself, as it would be in a setup. The lines of its problems mean nothing.
     *
     * @param fields as in a setup file
     */
    public LaneResult lane(Setup setup, String name, Map<String, Object> fields) {
        Map<String, Object> root = Map.of("lanes", Map.of(name, fields));
        SetupDocument document = SetupDocument.unwritten(root);
        List<SetupProblem> problems = new ArrayList<>();
        schema.validate(root).forEach(misfit -> problems.add(document.problem(misfit.pointer(), misfit.what())));
        Pieces pieces = new Pieces(document, expressions(setup));
        Lane lane = laneParts(pieces, setup).lane(name, fields);
        problems.addAll(pieces.problems());
        return new LaneResult(
                problems.stream().distinct().toList(), problems.isEmpty() ? Optional.of(lane) : Optional.empty());
    }

    /** Of a lane only what it picks; it need not say yet where that goes. */
    public LaneResult picking(Setup setup, String name, Map<String, Object> fields) {
        Map<String, Object> picking = new LinkedHashMap<>(fields);
        picking.keySet().retainAll(PICKING);
        picking.put("outlet", NOWHERE);
        Map<String, Object> root = Map.of("lanes", Map.of(name, picking));
        SetupDocument document = SetupDocument.unwritten(root);
        List<SetupProblem> problems = new ArrayList<>();
        schema.validate(root).forEach(misfit -> problems.add(document.problem(misfit.pointer(), misfit.what())));
        Pieces pieces = new Pieces(document, expressions(setup));
        Lane lane = new LaneParts(pieces, setup.inlets().keySet(), Map.of(NOWHERE, LaneParts.Destination.NOWHERE))
                .lane(name, picking);
        problems.addAll(pieces.problems());
        return new LaneResult(
                problems.stream().distinct().toList(), problems.isEmpty() ? Optional.of(lane) : Optional.empty());
    }

    /** The same of a lookout. */
    public LookoutResult lookout(Setup setup, String name, Map<String, Object> fields) {
        Map<String, Object> root = Map.of("lookouts", Map.of(name, fields));
        SetupDocument document = SetupDocument.unwritten(root);
        List<SetupProblem> problems = new ArrayList<>();
        schema.validate(root).forEach(misfit -> problems.add(document.problem(misfit.pointer(), misfit.what())));
        Pieces pieces = new Pieces(document, expressions(setup));
        Lookout lookout = new LookoutParts(pieces, laneParts(pieces, setup)).lookout(name, fields);
        problems.addAll(pieces.problems());
        return new LookoutResult(
                problems.stream().distinct().toList(), problems.isEmpty() ? Optional.of(lookout) : Optional.empty());
    }

    private LaneParts laneParts(Pieces pieces, Setup setup) {
        return new LaneParts(pieces, setup.inlets().keySet(), Parts.destinations(setup.outlets(), kinds));
    }

    /** What compiles expressions as a setup's lanes have them. */
    public ExpressionCompiler expressions(Setup setup) {
        return expressions.withTables(setup.tables());
    }

    private List<SetupProblem> clashes(Setup setup, SetupDocument document) {
        List<SetupProblem> found = new ArrayList<>();
        kinds.forEach((name, kind) -> {
            Map<String, Map<String, Object>> inlets = new LinkedHashMap<>();
            setup.inlets().values().stream()
                    .filter(inlet -> inlet.kind().equals(name))
                    .forEach(inlet -> inlets.put(inlet.name(), inlet.at()));
            kind.clashes(inlets)
                    .forEach(clash -> found.add(
                            document.problem("/inlets/" + clash.inlet() + "/at/" + clash.field(), clash.what())));
        });
        return found;
    }
}
