package org.holtra.core.shape;

import java.util.ArrayList;
import java.util.List;
import org.holtra.core.expression.ExpressionProblem;
import org.holtra.core.expression.UnclosedHole;

/** Splits a template into text and holes; braces and quotes inside an expression do not end its hole. */
final class TemplateScanner {

    record Piece(String text, boolean hole) {}

    private final String source;
    private final List<Piece> pieces = new ArrayList<>();
    private final StringBuilder text = new StringBuilder();

    private TemplateScanner(String source) {
        this.source = source;
    }

    static List<Piece> scan(String source) throws ExpressionProblem {
        return new TemplateScanner(source).pieces();
    }

    private List<Piece> pieces() throws ExpressionProblem {
        int at = 0;
        while (at < source.length()) {
            if (source.startsWith("$${", at)) {
                text.append("${");
                at += 3;
            } else if (source.startsWith("${", at)) {
                endText();
                int end = endOfHole(at + 2);
                pieces.add(new Piece(source.substring(at + 2, end), true));
                at = end + 1;
            } else {
                text.append(source.charAt(at++));
            }
        }
        endText();
        return pieces;
    }

    private void endText() {
        if (!text.isEmpty()) {
            pieces.add(new Piece(text.toString(), false));
            text.setLength(0);
        }
    }

    private int endOfHole(int start) throws ExpressionProblem {
        int depth = 0;
        char quote = 0;
        for (int at = start; at < source.length(); at++) {
            char c = source.charAt(at);
            if (quote != 0) {
                if (c == '\\') {
                    at++;
                } else if (c == quote) {
                    quote = 0;
                }
            } else if (c == '"' || c == '\'') {
                quote = c;
            } else if (c == '{') {
                depth++;
            } else if (c == '}' && depth-- == 0) {
                return at;
            }
        }
        throw UnclosedHole.at(source, start - 1);
    }
}
