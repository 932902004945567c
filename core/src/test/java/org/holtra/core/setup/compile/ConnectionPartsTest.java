package org.holtra.core.setup.compile;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.setup.Inlet;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.document.SetupProblem;
import org.holtra.core.setup.schema.Kind;
import org.junit.jupiter.api.Test;

/** Connections that inlets and outlets share. */
class ConnectionPartsTest {

    /** Its inlets and outlets share connections of a kind, and say something of their reading by themselves. */
    private record Sharing(String name, String shared) implements Kind {

        @Override
        public Optional<String> inletForm() {
            return Optional.of("{\"required\": [\"connection\"]}");
        }

        @Override
        public Optional<String> outletForm() {
            return Optional.of("{}");
        }

        @Override
        public Optional<String> connectionForm() {
            return Optional.of("{\"required\": [\"address\"]}");
        }

        @Override
        public Optional<String> sharedKind() {
            return Optional.of(shared);
        }

        @Override
        public Set<String> connectionCredentials() {
            return Set.of("login");
        }

        @Override
        public Map<String, Object> readingUnlessSaid() {
            return Map.of("format", "json", "device", "meta.edge");
        }
    }

    private final SetupCompiler compiler = new SetupCompiler(
            List.of(new Sharing("bus", "bus"), new Sharing("other", "other")), new ExpressionCompiler());

    private static final String GOOD = """
            connections:
              plant: {kind: bus, to: {address: here, credential: login}}
            inlets:
              in: {kind: bus, at: {connection: plant}}
            outlets:
              out: {kind: bus, to: {connection: plant}}
            """;

    private List<String> problems(String yaml) {
        return compiler.compile(yaml).problems().stream()
                .map(problem -> problem.where() + ": " + problem.what())
                .toList();
    }

    @Test
    void inletsAndOutletsHaveTheConnectionThatTheyName() {
        Setup setup = compiler.compile(GOOD).setup().orElseThrow();

        assertThat(setup.connections().get("plant").to()).containsEntry("address", "here");
        assertThat(setup.inlets().get("in").connection())
                .isEqualTo(setup.connections().get("plant"));
        assertThat(setup.outlets().get("out").connection())
                .isEqualTo(setup.connections().get("plant"));
        assertThat(setup.inlets().get("in").credential()).isEqualTo("login");
        assertThat(setup.outlets().get("out").credential()).isEqualTo("login");
    }

    @Test
    void aChangedConnectionMakesAnotherInlet() {
        Inlet before = compiler.compile(GOOD).setup().orElseThrow().inlets().get("in");
        Inlet after = compiler.compile(GOOD.replace("address: here", "address: there"))
                .setup()
                .orElseThrow()
                .inlets()
                .get("in");

        assertThat(after.connection()).isNotEqualTo(before.connection());
    }

    @Test
    void aConnectionThatIsNotThereIsRefusedWithTheNearest() {
        assertThat(problems(GOOD.replace("at: {connection: plant}", "at: {connection: plent}")))
                .containsExactly("inlets.in.at.connection: there is no connection `plent`; did you mean `plant`?");
        assertThat(problems("outlets:\n  out: {kind: bus, to: {connection: plant}}\n"))
                .containsExactly("outlets.out.to.connection: there is no connection `plant`; add it under connections");
    }

    @Test
    void aConnectionOfAnotherKindIsRefused() {
        assertThat(problems(GOOD.replace("in: {kind: bus", "in: {kind: other")))
                .containsExactly("inlets.in.at.connection: connection `plant` is of the kind bus, and one of the kind"
                        + " other is needed here");
    }

    @Test
    void theFormOfTheKindHoldsForAConnection() {
        assertThat(problems("connections:\n  plant: {kind: bus, to: {}}\n"))
                .singleElement()
                .asString()
                .contains("connections.plant.to", "address");
        assertThat(problems("connections:\n  plant: {kind: none, to: {}}\n"))
                .singleElement()
                .asString()
                .contains("connections.plant.kind");
    }

    @Test
    void itsCredentialHasToBeThereAndFit() {
        assertThat(compiler.compile(GOOD, Map.of("login", "login")).problems()).isEmpty();
        assertThat(compiler.compile(GOOD, Map.of()).problems())
                .extracting(SetupProblem::where)
                .containsExactly("connections.plant.to.credential");
        assertThat(compiler.compile(GOOD, Map.of("login", "bearer")).problems())
                .extracting(SetupProblem::what)
                .singleElement()
                .asString()
                .contains("it should be login");
    }

    @Test
    void whatAKindSaysOfReadingHoldsUnlessTheSetupSaysOtherwise() {
        Inlet usual = compiler.compile(GOOD).setup().orElseThrow().inlets().get("in");
        Inlet own = compiler.compile(GOOD.replace("in: {kind: bus", "in: {device: data.id, kind: bus"))
                .setup()
                .orElseThrow()
                .inlets()
                .get("in");

        assertThat(usual.identity().device().source()).isEqualTo("meta.edge");
        assertThat(own.identity().device().source()).isEqualTo("data.id");
        assertThat(own.contents().format()).isEqualTo(usual.contents().format());
    }
}
