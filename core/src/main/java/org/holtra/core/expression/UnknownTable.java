package org.holtra.core.expression;

import dev.cel.common.CelAbstractSyntaxTree;
import dev.cel.common.ast.CelConstant;
import dev.cel.common.ast.CelExpr;
import dev.cel.common.navigation.CelNavigableAst;
import java.util.Set;
import org.holtra.core.text.Nearest;

/** Finds a {@code lookup()} in a table there is none of, which the types cannot tell. */
final class UnknownTable {

    private UnknownTable() {}

    static void check(CelAbstractSyntaxTree tree, Set<String> tables, String source) throws ExpressionProblem {
        for (CelExpr call : CelNavigableAst.fromAst(tree)
                .getRoot()
                .allNodes()
                .map(node -> node.expr())
                .filter(UnknownTable::looksUp)
                .toList()) {
            CelExpr name = call.call().args().getFirst();
            if (name.getKind() == CelExpr.ExprKind.Kind.CONSTANT
                    && name.constant().getKind() == CelConstant.Kind.STRING_VALUE
                    && !tables.contains(name.constant().stringValue())) {
                int offset = tree.getSource().getPositionsMap().getOrDefault(name.id(), 0);
                throw new ExpressionProblem(
                        "there is no lookup `" + name.constant().stringValue() + "`"
                                + Nearest.of(name.constant().stringValue(), tables)
                                        .map(near -> "; did you mean `" + near + "`?")
                                        .orElse(
                                                tables.isEmpty()
                                                        ? "; the setup has no lookups"
                                                        : "; there are " + String.join(", ", tables)),
                        source,
                        1
                                + (int) source.substring(0, Math.min(offset, source.length()))
                                        .chars()
                                        .filter(c -> c == '\n')
                                        .count(),
                        offset - source.lastIndexOf('\n', Math.max(0, offset - 1)));
            }
        }
    }

    private static boolean looksUp(CelExpr expression) {
        return expression.getKind() == CelExpr.ExprKind.Kind.CALL
                && expression.call().function().equals("lookup")
                && !expression.call().args().isEmpty();
    }
}
