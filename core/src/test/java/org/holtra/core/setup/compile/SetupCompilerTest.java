package org.holtra.core.setup.compile;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.List;
import java.util.Optional;
import org.holtra.core.expression.ExpressionCompiler;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.document.SetupProblem;
import org.holtra.core.setup.schema.Kind;
import org.junit.jupiter.api.Test;

public class SetupCompilerTest {

    /** A kind that is none of the product's, to show that the compiler knows none by name. */
    private static final Kind PIGEON = new Kind() {
        @Override
        public String name() {
            return "pigeon";
        }

        @Override
        public Optional<String> inletForm() {
            return Optional.of("""
                    {"type": "object", "required": ["loft"], "additionalProperties": false,
                     "properties": {"loft": {"type": "string"}, "perches": {"type": "integer", "minimum": 1}}}""");
        }

        @Override
        public Optional<String> outletForm() {
            return inletForm();
        }
    };

    private final SetupCompiler compiler = new SetupCompiler(List.of(PIGEON), new ExpressionCompiler());

    private static final String GOOD = """
            inlets:
              roof:
                kind: pigeon
                at: {loft: north}
                device: data.ring
                simulated: true
            outlets:
              desk:
                kind: pigeon
                to: {loft: south, perches: 2}
            lanes:
              notes:
                inlets: [roof]
                pick: data.t < 0
                outlet: desk
                shape:
                  body: {t: "${data.t}"}
                retry: {first: 500ms, giveUpAfter: 3d}
            """;

    @Test
    void compilesAGoodFile() {
        SetupCompiler.Result result = compiler.compile(GOOD);

        assertThat(result.problems()).isEmpty();
        Setup setup = result.setup().orElseThrow();
        assertThat(setup.lanesOf("roof")).extracting(Lane::name).containsExactly("notes");
        assertThat(setup.lanes().get("notes").retry().first()).isEqualTo(Duration.ofMillis(500));
        assertThat(setup.lanes().get("notes").retry().giveUpAfter()).isEqualTo(Duration.ofDays(3));
        assertThat(setup.lanes().get("notes").retry().factor()).isEqualTo(2);
    }

    @Test
    void findsEveryErrorAtItsLine() {
        String bad = """
                inlets:
                  roof:
                    kind: pidgeon
                    at: {loft: north}
                    device: data.
                  attic:
                    kind: pigeon
                    at: {perches: 0}
                outlets:
                  desk:
                    kind: pigeon
                    to: {loft: south, perch: 2}
                lanes:
                  notes:
                    inlets: [rof]
                    pik: data.t < 0
                    outlet: dsk
                    shape:
                      body:
                        deep: ["${data.t +}"]
                    retry: {first: soon}
                """;

        assertThat(compiler.compile(bad).setup()).isEmpty();
        assertThat(compiler.compile(bad).problems())
                .extracting(problem -> problem.line() + " " + problem.where() + ": "
                        + problem.what().lines().findFirst().orElse(""))
                .containsExactly(
                        "3 inlets.roof.kind: `pidgeon` is not one of pigeon",
                        "5 inlets.roof.device: the expression ends too early: a field's name is missing after the dot",
                        "8 inlets.attic.at: `loft` is missing",
                        "8 inlets.attic.at.perches: `0` is too small, the least is 1",
                        "12 outlets.desk.to.perch: nothing here is called `perch`; did you mean `perches`?",
                        "15 lanes.notes.inlets.0: there is no inlet `rof`; did you mean `roof`?",
                        "16 lanes.notes.pik: nothing here is called `pik`; did you mean `pick`?",
                        "17 lanes.notes.outlet: there is no outlet `dsk`; did you mean `desk`?",
                        "20 lanes.notes.shape.body.deep.0: the expression ends too early: a value, or a closing bracket, is missing at its end",
                        "21 lanes.notes.retry.first: `soon` is not written right: write a number and ms, s, m, h or d, such as 30s");
    }

    @Test
    void aNameTwiceIsAnError() {
        assertThat(compiler.compile("inlets: {}\nlanes: {}\ninlets: {}\n").problems())
                .extracting(SetupProblem::toString)
                .containsExactly("line 3, inlets: `inlets` stands here a second time");
    }

    @Test
    void aFewAliasesCannotStandForASetupWithoutEnd() {
        StringBuilder bomb = new StringBuilder("lookups:\n  a0: &a0 {rows: {x: 1}}\n");
        for (int i = 1; i < 30; i++) {
            bomb.append("  a%d: &a%d [*a%d, *a%d, *a%d, *a%d]\n".formatted(i, i, i - 1, i - 1, i - 1, i - 1));
        }

        assertThat(compiler.compile(bomb.toString()).problems()).isNotEmpty();
        assertThat(compiler.compile("lookups:\n  a: &a {rows: {x: 1}}\n  b: *a\n")
                        .problems())
                .extracting(SetupProblem::what)
                .anyMatch(what -> what.startsWith("an alias (`*`) of a list or an object is not taken"));
        assertThat(compiler.compile("lanes: &l\n  a: *l\n").problems()).isNotEmpty();
        assertThat(compiler.compile("[".repeat(200_000)).problems()).isNotEmpty();
    }

    @Test
    void expressionsThatAreTooMuchTogetherAreRefusedInTime() {
        String operands = String.join(" || ", java.util.Collections.nCopies(200, "data.a < 1"));
        StringBuilder setup = new StringBuilder("lanes:\n");
        for (int i = 0; i < 400; i++) {
            setup.append("  l%d: {inlets: [x], outlet: y, pick: \"%s\"}\n".formatted(i, operands));
        }

        assertThat(compiler.compile(setup.toString()).problems())
                .extracting(SetupProblem::what)
                .anyMatch(what -> what.contains("too many and too long to be compiled"));
    }

    @Test
    void textThatIsNotYamlIsAnErrorAtItsPlace() {
        assertThat(compiler.compile("inlets:\n  roof: [\n").problems())
                .singleElement()
                .satisfies(problem -> {
                    assertThat(problem.line()).isGreaterThanOrEqualTo(2);
                    assertThat(problem.what()).startsWith("not YAML: ");
                });
        assertThat(compiler.compile("just text").problems())
                .extracting(SetupProblem::what)
                .containsExactly("this should be a block of named fields, not `just text`");
    }

    @Test
    void anEmptyFileIsAnEmptySetup() {
        assertThat(compiler.compile("").setup().orElseThrow().lanes()).isEmpty();
    }

    @Test
    void namesAreChecked() {
        assertThat(compiler.compile("lanes:\n  Bad Name: {inlets: [x], outlet: y}\n")
                        .problems())
                .extracting(SetupProblem::what)
                .anyMatch(what -> what.startsWith("`Bad Name` is no name"));
    }

    @Test
    void theSchemaIsPublishedWithTheKindsForms() {
        assertThat(compiler.schema()
                        .document()
                        .at("/$defs/inlet/properties/kind/enum/0")
                        .asString())
                .isEqualTo("pigeon");
        assertThat(compiler.schema()
                        .document()
                        .at("/$defs/outlet/allOf/0/then/properties/to/properties/perches/minimum")
                        .asInt())
                .isEqualTo(1);
    }
}
