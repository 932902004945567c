package org.holtra.core.expression;

import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Turns the parser's and checker's messages, which name tokens, into ones that name the mistake. */
final class Rewording {

    private static final Pattern TOKEN = Pattern.compile(
            "(?:mismatched|extraneous) input '(.+?)'|no viable alternative at input '(.+?)'|missing '(.+?)' at");
    private static final Pattern LETTER = Pattern.compile("token recognition error at: '(.*)'", Pattern.DOTALL);
    private static final Pattern UNDECLARED = Pattern.compile("undeclared reference to '(.+?)'.*", Pattern.DOTALL);
    private static final Pattern OVERLOAD =
            Pattern.compile("found no matching overload for '(.+?)' applied to '\\((.*?)\\)'.*", Pattern.DOTALL);
    private static final Pattern LONE_EQUALS = Pattern.compile("[^=!<>]=[^=]");

    private Rewording() {}

    static String of(String message, String source) {
        Matcher undeclared = UNDECLARED.matcher(message);
        if (undeclared.matches()) {
            return "nothing is called `" + undeclared.group(1)
                    + "`: an expression sees data, meta and device, and text stands in quotes";
        }
        Matcher overload = OVERLOAD.matcher(message);
        if (overload.matches()) {
            return "`" + overload.group(1).replace("_", "").strip() + "` does not work on "
                    + overload.group(2).replace(", ", " and ");
        }
        if (LONE_EQUALS.matcher(source).find() && (message.contains("'='") || message.contains("recognition"))) {
            return "`=` sets nothing here: compare with `==`";
        }
        Matcher letter = LETTER.matcher(message);
        if (letter.matches()) {
            String found = letter.group(1);
            return found.startsWith("\"") || found.startsWith("'") || found.contains("<EOF>")
                    ? "a text is opened by a quote here and never closed"
                    : "`" + found + "` means nothing here";
        }
        if (message.contains("input '<EOF>'") || message.contains("at input '<EOF>'")) {
            return "the expression ends too early: a value, or a closing bracket, is missing at its end";
        }
        if (source.stripTrailing().endsWith(".")) {
            return "the expression ends too early: a field's name is missing after the dot";
        }
        Matcher token = TOKEN.matcher(message);
        if (token.find()) {
            if (token.group(3) != null) {
                return "`" + token.group(3) + "` is missing here";
            }
            return "`" + (token.group(1) != null ? token.group(1) : token.group(2))
                    + "` was not expected here: is an operator or a comma missing before it?";
        }
        return message;
    }
}
