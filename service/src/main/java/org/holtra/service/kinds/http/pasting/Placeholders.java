package org.holtra.service.kinds.http.pasting;

import java.util.LinkedHashSet;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** What documentation writes where a reader is to put something of their own. */
final class Placeholders {

    private static final Pattern ANY = Pattern.compile(
            "<[A-Za-z][A-Za-z0-9 _-]*>|\\{\\{[^{}]+}}|(?<!\\$)\\{[A-Za-z_][A-Za-z0-9_-]*}|\\$\\{?[A-Z][A-Z0-9_]{2,}}?"
                    + "|\\b(?:YOUR|MY|your|my)[_-][A-Za-z0-9_-]+|\\b[xX]{4,}\\b|\\.{3}|%7[Bb][A-Za-z_]+%7[Dd]");

    private Placeholders() {}

    static Set<String> in(String text) {
        Set<String> found = new LinkedHashSet<>();
        if (text != null) {
            Matcher matcher = ANY.matcher(text);
            while (matcher.find()) {
                found.add(matcher.group());
            }
        }
        return found;
    }

    static boolean only(String text) {
        return ANY.matcher(text.strip()).matches();
    }
}
