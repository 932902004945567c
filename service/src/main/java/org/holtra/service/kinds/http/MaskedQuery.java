package org.holtra.service.kinds.http;

import java.util.Arrays;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/** The query of a request as it is kept: values that are secrets, by their name or their look, are masked. */
final class MaskedQuery {

    static final String MASK = "•••";

    private static final Pattern SECRET_NAME = Pattern.compile(
            "(?i).*(token|secret|passw|pwd|auth|signature|credential|session|jwt|api.?key|access.?key).*"
                    + "|(?i)(key|sig|sid|pass|code|hmac|.+[-_.]key)");

    /** A JSON Web Token (RFC 7519). */
    private static final Pattern WEB_TOKEN =
            Pattern.compile("[A-Za-z0-9_-]{10,}\\.[A-Za-z0-9_-]{10,}\\.[A-Za-z0-9_-]*");

    private static final Pattern LONG_HEXADECIMAL = Pattern.compile("(?i)[0-9a-f]{40,}");
    private static final Pattern RANDOM = Pattern.compile("[A-Za-z0-9_\\-+/=%]{24,}");

    private MaskedQuery() {}

    /** @param query as it came, without its question mark */
    static String of(String query) {
        return of(query, null);
    }

    /** @param secret the name of a parameter that holds a secret whatever it looks like; or null */
    static String of(String query, String secret) {
        return Arrays.stream(query.split("&", -1))
                .map(parameter -> parameter(parameter, secret))
                .collect(Collectors.joining("&"));
    }

    private static String parameter(String parameter, String secret) {
        int equals = parameter.indexOf('=');
        String name = equals < 0 ? "" : parameter.substring(0, equals);
        String value = parameter.substring(equals + 1);
        return !value.isEmpty()
                        && (name.equals(secret) || SECRET_NAME.matcher(name).matches() || looksSecret(value))
                ? name + (equals < 0 ? "" : "=") + MASK
                : parameter;
    }

    static boolean looksSecret(String value) {
        return WEB_TOKEN.matcher(value).matches()
                || LONG_HEXADECIMAL.matcher(value).matches()
                || RANDOM.matcher(value).matches()
                        && value.chars().anyMatch(Character::isUpperCase)
                        && value.chars().anyMatch(Character::isLowerCase)
                        && value.chars().anyMatch(Character::isDigit);
    }
}
