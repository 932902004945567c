package org.holtra.core.expression;

import dev.cel.common.CelAbstractSyntaxTree;
import dev.cel.common.CelIssue;
import dev.cel.common.CelOptions;
import dev.cel.common.CelValidationException;
import dev.cel.common.ast.CelExpr;
import dev.cel.common.navigation.CelNavigableExpr;
import dev.cel.common.types.CelType;
import dev.cel.common.types.MapType;
import dev.cel.common.types.SimpleType;
import dev.cel.compiler.CelCompiler;
import dev.cel.compiler.CelCompilerFactory;
import dev.cel.extensions.CelExtensions;
import dev.cel.extensions.CelStringExtensions;
import dev.cel.parser.CelStandardMacro;
import dev.cel.parser.CelUnparser;
import dev.cel.parser.CelUnparserFactory;
import dev.cel.runtime.CelEvaluationException;
import dev.cel.runtime.CelRuntime;
import dev.cel.runtime.CelRuntimeFactory;
import dev.cel.runtime.CelStandardFunctions;
import dev.cel.runtime.standard.AddOperator;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.atomic.AtomicLong;

/**
 * Compiles expressions of the Common Expression Language over {@code data}, {@code meta} and {@code device}. Compiling
 * costs about half a millisecond an expression and is done once for a setup; what comes out may be used by any thread.
 */
public final class ExpressionCompiler {

    /** No comprehension runs longer than this; CEL itself sets no bound. */
    private static final int MOST_ITERATIONS = 10_000;

    private static final CelOptions OPTIONS = CelOptions.current()
            .enableHeterogeneousNumericComparisons(true)
            .comprehensionMaxIterations(MOST_ITERATIONS)
            .populateMacroCalls(true)
            .build();

    /** Those of the library that give no more than they get; the others are {@link TextFunctions}. */
    private static final Set<CelStringExtensions.Function> TEXTS =
            EnumSet.complementOf(EnumSet.of(CelStringExtensions.Function.REPLACE, CelStringExtensions.Function.JOIN));

    /** All but the joining of texts, which has no bound; ours takes its place. */
    private static final CelStandardFunctions STANDARD = CelStandardFunctions.newBuilder()
            .filterFunctions((function, overload) -> overload != AddOperator.AddOverload.ADD_STRING)
            .build();

    /** Of one expression. The time to compile it grows with their square. */
    private static final int MOST_PARTS = 1_000;

    private static final int MOST_CHARACTERS = 20_000;

    /** Of all expressions of a setup, the squares of their parts together. */
    private static final long MOST_EFFORT = 20_000_000;

    private final Map<String, LookupTable> tables;
    private final CelCompiler compiler;
    private final CelRuntime runtime;
    private final CelUnparser unparser = CelUnparserFactory.newUnparser();
    /** What has been spent of the effort; null where that is not counted. */
    private final AtomicLong spent;

    public ExpressionCompiler() {
        this(Map.of());
    }

    /** @param tables that {@code lookup()} may look in, by name */
    public ExpressionCompiler(Map<String, LookupTable> tables) {
        List<OwnFunction> own = OwnFunctions.all(tables);
        this.tables = tables;
        this.spent = null;
        this.compiler = CelCompilerFactory.standardCelCompilerBuilder()
                .setOptions(OPTIONS)
                .setStandardMacros(CelStandardMacro.STANDARD_MACROS)
                .addMacros(DefaultMacro.macro())
                .addLibraries(CelExtensions.strings(TEXTS))
                .addVar(Scope.DATA, SimpleType.DYN)
                .addVar(Scope.META, MapType.create(SimpleType.STRING, SimpleType.DYN))
                .addVar(Scope.DEVICE, MapType.create(SimpleType.STRING, SimpleType.DYN))
                .addFunctionDeclarations(MixedArithmetic.declarations())
                .addFunctionDeclarations(
                        own.stream().map(OwnFunction::declaration).toList())
                .build();
        this.runtime = CelRuntimeFactory.plannerRuntimeBuilder()
                .setOptions(OPTIONS)
                .setStandardFunctions(STANDARD)
                .addLibraries(CelExtensions.strings(TEXTS))
                .addFunctionBindings(MixedArithmetic.bindings())
                .addFunctionBindings(
                        own.stream().flatMap(one -> one.bindings().stream()).toList())
                .build();
    }

    private ExpressionCompiler(ExpressionCompiler around, String variable) {
        this.tables = around.tables;
        this.compiler = around.compiler
                .toCompilerBuilder()
                .addVar(variable, SimpleType.DYN)
                .build();
        this.runtime = around.runtime;
        this.spent = around.spent;
    }

    private ExpressionCompiler(ExpressionCompiler like, AtomicLong spent) {
        this.tables = like.tables;
        this.compiler = like.compiler;
        this.runtime = like.runtime;
        this.spent = spent;
    }

    /** One that compiles the expressions of one setup, and no more than a setup may have. */
    public ExpressionCompiler forOneSetup() {
        return new ExpressionCompiler(this, new AtomicLong());
    }

    /** One whose expressions look in these tables. */
    public ExpressionCompiler withTables(Map<String, LookupTable> others) {
        return others.equals(tables) ? this : new ExpressionCompiler(others);
    }

    /** One whose expressions see a variable more. */
    public ExpressionCompiler withVariable(String name) {
        return new ExpressionCompiler(this, name);
    }

    /** An expression of any type. */
    public Expression expression(String source) throws ExpressionProblem {
        CelAbstractSyntaxTree tree = compile(source);
        return new Expression(
                source.strip(), program(tree, source), FieldPath.in(tree.getExpr()), fast(tree.getExpr()));
    }

    /** An expression that says yes or no. */
    public Condition condition(String source) throws ExpressionProblem {
        CelAbstractSyntaxTree tree = compile(source);
        CelType type = tree.getResultType();
        if (!type.equals(SimpleType.BOOL) && !type.equals(SimpleType.DYN)) {
            throw new ExpressionProblem(
                    "a condition must be true or false, this gives " + article(type.name()), source, 1, 1);
        }
        Expression whole = new Expression(
                source.strip(), program(tree, source), FieldPath.in(tree.getExpr()), fast(tree.getExpr()));
        List<Expression> parts = new ArrayList<>();
        for (CelExpr part : conjuncts(tree.getExpr())) {
            parts.add(part(part, tree, source));
        }
        return new Condition(whole, List.copyOf(parts), Comparison.in(tree.getExpr()));
    }

    /** What an expression and each of its parts come to in a scope. Compiles every part, so it is for people's eyes. */
    public Explanation explain(String source, Scope scope) throws ExpressionProblem {
        CelAbstractSyntaxTree tree = compile(source);
        return explain(tree.getExpr(), tree, source, scope);
    }

    private Explanation explain(CelExpr part, CelAbstractSyntaxTree whole, String source, Scope scope)
            throws ExpressionProblem {
        Expression compiled = part(part, whole, source);
        List<Explanation> parts = new ArrayList<>();
        for (CelExpr inner : Inner.parts(part, whole.getSource().getMacroCalls().containsKey(part.id()))) {
            parts.add(explain(inner, whole, source, scope));
        }
        return switch (compiled.evaluate(scope)) {
            case Outcome.Value(Object value) ->
                new Explanation(
                        compiled.source(),
                        Plain.brief(value) + FieldPath.of(part).map(scope::unit).orElse(""),
                        null,
                        value instanceof Boolean truth ? truth : null,
                        parts);
            case Outcome.None(String reason, boolean missing) ->
                new Explanation(compiled.source(), null, reason, null, parts);
        };
    }

    /** The expression as CEL's own tree. */
    CelExpr tree(String source) throws ExpressionProblem {
        return compile(source).getExpr();
    }

    private CelAbstractSyntaxTree compile(String source) throws ExpressionProblem {
        if (source.isBlank()) {
            throw new ExpressionProblem("the expression is empty", source, 1, 1);
        }
        if (source.length() > MOST_CHARACTERS) {
            throw new ExpressionProblem(
                    "the expression has more than " + MOST_CHARACTERS + " characters", brief(source), 1, 1);
        }
        try {
            CelAbstractSyntaxTree parsed = compiler.parse(source).getAst();
            long parts = CelNavigableExpr.fromExpr(parsed.getExpr()).allNodes().count();
            if (parts > MOST_PARTS) {
                throw new ExpressionProblem(
                        "the expression has " + parts + " parts, more than the " + MOST_PARTS
                                + " that one may have; a lookup may say the same",
                        brief(source),
                        1,
                        1);
            }
            if (spent != null && spent.addAndGet(parts * parts) > MOST_EFFORT) {
                throw new ExpressionProblem(
                        "the expressions of the setup are too many and too long to be compiled", brief(source), 1, 1);
            }
            CelAbstractSyntaxTree tree = compiler.check(parsed).getAst();
            UnknownTable.check(tree, tables.keySet(), source);
            return tree;
        } catch (CelValidationException e) {
            throw problem(source, e);
        }
    }

    private static String brief(String source) {
        return source.length() > 100 ? source.substring(0, 100) + "…" : source;
    }

    private static ExpressionProblem problem(String source, CelValidationException e) {
        if (e.getErrors().isEmpty()) {
            return new ExpressionProblem(e.getMessage(), source, 1, 1);
        }
        CelIssue issue = e.getErrors().getFirst();
        int line = Math.max(1, issue.getSourceLocation().getLine());
        int column = Math.max(0, issue.getSourceLocation().getColumn()) + 1;
        return new ExpressionProblem(Rewording.of(issue.getMessage(), source), source, line, column);
    }

    /**
     * The program is planned from the tree without the types that were inferred: inference takes {@code data['x'] < 0} to
     * mean that {@code data['x']} is an int, and would pin the comparison to ints.
     */
    private CelRuntime.Program program(CelAbstractSyntaxTree tree, String source) throws ExpressionProblem {
        try {
            return runtime.createProgram(CelAbstractSyntaxTree.newParsedAst(tree.getExpr(), tree.getSource()));
        } catch (CelEvaluationException e) {
            throw new ExpressionProblem(e.getMessage(), source, 1, 1);
        }
    }

    private Expression part(CelExpr part, CelAbstractSyntaxTree whole, String source) throws ExpressionProblem {
        CelAbstractSyntaxTree parsed = CelAbstractSyntaxTree.newParsedAst(part, whole.getSource());
        try {
            CelAbstractSyntaxTree checked = compiler.check(parsed).getAst();
            return new Expression(unparser.unparse(checked), program(checked, source), FieldPath.in(part), fast(part));
        } catch (CelValidationException e) {
            throw problem(source, e);
        }
    }

    private static Tree fast(CelExpr expression) {
        return TreeCompiler.compile(expression).orElse(null);
    }

    /** The operands of the outermost {@code &&}, however nested; the expression itself if there is none. */
    private static List<CelExpr> conjuncts(CelExpr expression) {
        if (expression.getKind() == CelExpr.ExprKind.Kind.CALL
                && expression.call().function().equals("_&&_")) {
            List<CelExpr> all = new ArrayList<>();
            expression.call().args().forEach(argument -> all.addAll(conjuncts(argument)));
            return all;
        }
        return List.of(expression);
    }

    private static String article(String type) {
        return ("aeiou".indexOf(type.charAt(0)) >= 0 ? "an " : "a ") + type;
    }
}
