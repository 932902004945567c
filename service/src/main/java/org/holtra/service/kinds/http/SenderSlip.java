package org.holtra.service.kinds.http;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.UnaryOperator;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.holtra.service.httpclient.HttpCredential;

/**
 * Finds out by which slip a sender could not be checked, for the people of its inlet. Its sender is not told: it might be
 * trying secrets.
 *
 * @param wanted the inlet's credential
 * @param retired the one before, if its overlap has ended; or null
 * @param retiredAt when that was
 * @param others the credentials of other inlets, by the inlet's name
 */
record SenderSlip(
        HttpCredential wanted, HttpCredential retired, Instant retiredAt, Map<String, List<HttpCredential>> others) {

    private static final String AUTHORIZATION = "Authorization";

    /** Where senders put secrets. */
    static final List<String> PLACES =
            List.of(AUTHORIZATION, "X-Api-Key", "Api-Key", "X-Auth-Token", "X-Token", "Token", "Key");

    /** Not headers, but looked up as if they were: no header can have such a name. */
    static final String QUERY = "?";

    static final String PATH = "/";

    private static final Pattern SCHEME =
            Pattern.compile("(?i)(bearer|basic|digest|token|apikey|api-key|key|negotiate)");
    private static final Pattern WORDS = Pattern.compile("(\\S+)\\s+(.+)", Pattern.DOTALL);
    private static final Pattern QUOTED = Pattern.compile("[\"'<{\\[](.*)[\"'>}\\]]", Pattern.DOTALL);

    static boolean isScheme(String word) {
        return SCHEME.matcher(word).matches();
    }

    /**
     * @param header gives a header's value by name, or null
     * @param refusal what the sender was told
     */
    Slip.Told find(UnaryOperator<String> header, String refusal) {
        return switch (wanted) {
            case HttpCredential.Bearer(String token) -> scheme("Bearer", token, "its token", header);
            case HttpCredential.Basic(String user, String password) -> basic(user, password, header);
            case HttpCredential.Header(String name, String value) -> key(name, value, header);
            case HttpCredential.Signature ignored -> Slip.SIGNATURE.told(refusal);
            case HttpCredential.Query(String name, String value) -> {
                String given = header.apply(QUERY);
                yield given == null || given.isBlank()
                        ? elsewhere(value, name, header)
                                .orElseGet(() -> Slip.NO_SECRET.told(
                                        "The query has no parameter " + name + ". Send the inlet's key in it."))
                        : secret(given.strip(), value, "the inlet's key");
            }
            case HttpCredential.PathPart(String value) -> {
                String given = header.apply(PATH);
                yield given == null
                        ? Slip.NO_SECRET.told("The inlet's path has no place for its secret: put {secret} into it.")
                        : secret(given, value, "the secret in the path");
            }
            case HttpCredential.Authority ignored -> Slip.CERTIFICATE.told(refusal);
            case HttpCredential.Certificate ignored -> Slip.CERTIFICATE.told(refusal);
        };
    }

    private Slip.Told scheme(String scheme, String secret, String what, UnaryOperator<String> header) {
        String given = header.apply(AUTHORIZATION);
        if (given == null || given.isBlank()) {
            return elsewhere(secret, AUTHORIZATION, header)
                    .orElseGet(() -> Slip.NO_HEADER.told("The call has no header Authorization. Send `Authorization: "
                            + scheme + " …` with " + what + "."));
        }
        String text = given.strip();
        Matcher words = WORDS.matcher(text);
        String first = words.matches() ? words.group(1) : text;
        if (!first.equalsIgnoreCase(scheme)) {
            return words.matches() && isScheme(first)
                    ? Slip.OTHER_SCHEME.told(
                            "The header Authorization begins with `" + first + "`; write `" + scheme + "` instead.")
                    : Slip.NO_SCHEME.told("The header Authorization lacks its scheme word: write `" + scheme
                            + "` and a space before " + what + ".");
        }
        if (!words.matches()) {
            return Slip.NO_HEADER.told(
                    "The header Authorization ends after `" + scheme + "`: " + what + " is missing.");
        }
        String rest = words.group(2).strip();
        if (rest.regionMatches(true, 0, scheme + " ", 0, scheme.length() + 1)) {
            return Slip.SCHEME_TWICE.told("The header Authorization has the word `" + scheme + "` twice; write it once."
                    + " The sender may put it there by itself.");
        }
        return secret(rest, secret, what);
    }

    private Slip.Told basic(String user, String password, UnaryOperator<String> header) {
        String right = HttpCredential.Basic.encoded(user, password);
        Slip.Told found = scheme("Basic", right, "the user and the password in Base64", header);
        if (found.slip() != Slip.WRONG_SECRET) {
            return found;
        }
        String given = header.apply(AUTHORIZATION).strip();
        String text;
        try {
            text = new String(
                    Base64.getDecoder()
                            .decode(given.substring(given.indexOf(' ')).strip()),
                    StandardCharsets.UTF_8);
        } catch (IllegalArgumentException e) {
            return Slip.WRONG_SECRET.told("What follows `Basic` is not Base64: encode user, colon and password.");
        }
        int colon = text.indexOf(':');
        if (colon < 0) {
            return Slip.WRONG_SECRET.told("What follows `Basic` has no colon between user and password.");
        }
        return text.substring(0, colon).equals(user)
                ? Slip.WRONG_SECRET.told("The user is right, the password is not.")
                : Slip.OTHER_USER.told("The user is not the inlet's, which is `" + user + "`.");
    }

    private Slip.Told key(String name, String value, UnaryOperator<String> header) {
        String given = header.apply(name);
        if (given == null || given.isBlank()) {
            return elsewhere(value, name, header)
                    .orElseGet(() ->
                            Slip.NO_HEADER.told("The call has no header " + name + ". Send the inlet's key in it."));
        }
        String text = given.strip();
        Matcher words = WORDS.matcher(text);
        if (words.matches()
                && isScheme(words.group(1))
                && words.group(2).strip().equals(value)) {
            return Slip.OTHER_SCHEME.told(
                    "The header " + name + " begins with `" + words.group(1) + "`; send the key alone.");
        }
        return secret(text, value, "the inlet's key");
    }

    /** The right secret in a header where it is not looked for. */
    private static Optional<Slip.Told> elsewhere(String secret, String wanted, UnaryOperator<String> header) {
        for (String name : PLACES) {
            String given = name.equalsIgnoreCase(wanted) ? null : header.apply(name);
            if (given != null && given.contains(secret)) {
                return Optional.of(Slip.OTHER_HEADER.told(
                        "The secret came in the header " + name + "; the inlet looks for it in " + wanted + "."));
            }
        }
        return Optional.empty();
    }

    private Slip.Told secret(String given, String right, String what) {
        Matcher quoted = QUOTED.matcher(given);
        if (quoted.matches() && quoted.group(1).strip().equals(right)) {
            return Slip.QUOTED_SECRET.told("The secret stands in quotes or brackets; send it without them.");
        }
        if (retired != null && secretOf(retired).equals(given)) {
            return Slip.OLD_SECRET.told(
                    "This is the old secret. It was accepted until " + retiredAt + "; give the sender the new one.");
        }
        for (Map.Entry<String, List<HttpCredential>> other : others.entrySet()) {
            if (other.getValue().stream().anyMatch(one -> secretOf(one).equals(given))) {
                return Slip.SECRET_OF_ANOTHER_INLET.told("This is the secret of inlet " + other.getKey()
                        + ": either the secret or the address is the wrong one.");
            }
        }
        return Slip.WRONG_SECRET.told("The header is well formed, but " + what + " is another.");
    }

    /** What a sender shows of a credential; empty if that is no secret. */
    static String secretOf(HttpCredential credential) {
        return switch (credential) {
            case HttpCredential.Bearer(String token) -> token;
            case HttpCredential.Basic(String user, String password) -> HttpCredential.Basic.encoded(user, password);
            case HttpCredential.Header(String ignored, String value) -> value;
            case HttpCredential.Query(String ignored, String value) -> value;
            case HttpCredential.PathPart(String value) -> value;
            case HttpCredential.Signature(String secret) -> secret;
            case HttpCredential.Certificate ignored -> "";
            case HttpCredential.Authority ignored -> "";
        };
    }
}
