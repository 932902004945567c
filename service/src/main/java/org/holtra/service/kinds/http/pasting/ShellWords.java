package org.holtra.service.kinds.http.pasting;

import java.util.ArrayList;
import java.util.List;

/** Splits a command line into words as a POSIX shell does (POSIX.1-2024, 2.2 Quoting), without running anything in it. */
final class ShellWords {

    private final String line;
    private final List<String> words = new ArrayList<>();
    private final StringBuilder word = new StringBuilder();
    private boolean inWord;

    private ShellWords(String line) {
        this.line = line;
    }

    static List<String> of(String line) {
        return new ShellWords(line.replaceAll("\\\\\\r?\\n", " ")).split();
    }

    private List<String> split() {
        int at = 0;
        while (at < line.length()) {
            char c = line.charAt(at);
            if (c == '\'' || c == '"') {
                at = quoted(at + 1, c, false);
            } else if (c == '$' && line.startsWith("$'", at)) {
                at = quoted(at + 2, '\'', true);
            } else if (c == '\\' && at + 1 < line.length()) {
                add(line.charAt(at + 1));
                at += 2;
            } else if (Character.isWhitespace(c)) {
                end();
                at++;
            } else {
                add(c);
                at++;
            }
        }
        end();
        return words;
    }

    private int quoted(int start, char quote, boolean escapes) {
        inWord = true;
        int at = start;
        while (at < line.length() && line.charAt(at) != quote) {
            char c = line.charAt(at);
            boolean escaped = c == '\\' && at + 1 < line.length();
            if (escaped && escapes) {
                word.append(control(line.charAt(at + 1)));
                at += 2;
            } else if (escaped && quote == '"' && "\"\\$`".indexOf(line.charAt(at + 1)) >= 0) {
                word.append(line.charAt(at + 1));
                at += 2;
            } else {
                word.append(c);
                at++;
            }
        }
        return at + 1;
    }

    private static char control(char letter) {
        return switch (letter) {
            case 'n' -> '\n';
            case 'r' -> '\r';
            case 't' -> '\t';
            default -> letter;
        };
    }

    private void add(char c) {
        word.append(c);
        inWord = true;
    }

    private void end() {
        if (inWord) {
            words.add(word.toString());
            word.setLength(0);
            inWord = false;
        }
    }
}
