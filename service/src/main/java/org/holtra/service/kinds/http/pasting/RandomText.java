package org.holtra.service.kinds.http.pasting;

import java.util.regex.Pattern;

/** Whether a text looks as if nobody were to guess it: a key or token, whatever its name. */
final class RandomText {

    private static final int SHORTEST = 24;
    private static final Pattern ONE_WORD = Pattern.compile("[A-Za-z0-9_+/=.~-]+");
    private static final Pattern HEX = Pattern.compile("(?i)[0-9a-f]{32,}");
    /** Such an id tells whose something is, and opens nothing. */
    private static final Pattern UUID =
            Pattern.compile("(?i)[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}");

    private RandomText() {}

    static boolean is(String text) {
        if (text.length() < SHORTEST
                || !ONE_WORD.matcher(text).matches()
                || UUID.matcher(text).matches()) {
            return false;
        }
        return HEX.matcher(text).matches()
                || text.chars().anyMatch(Character::isDigit)
                        && text.chars().anyMatch(Character::isUpperCase)
                        && text.chars().anyMatch(Character::isLowerCase)
                        && changes(text) > text.length() / 4;
    }

    /** How often digits, capitals and small letters follow one another: seldom in words, often in random text. */
    private static int changes(String text) {
        int changes = 0;
        for (int i = 1; i < text.length(); i++) {
            if (kind(text.charAt(i)) != kind(text.charAt(i - 1))) {
                changes++;
            }
        }
        return changes;
    }

    private static int kind(char c) {
        return Character.isDigit(c) ? 0 : Character.isUpperCase(c) ? 1 : Character.isLowerCase(c) ? 2 : 3;
    }
}
