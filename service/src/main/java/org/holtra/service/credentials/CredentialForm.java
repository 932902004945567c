package org.holtra.service.credentials;

import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Pattern;

/**
 * A credential as a person pastes it, and what is noticed about it. What was surely not meant is mended (white space
 * around it, the scheme word in front of it); what may have been meant is only pointed out.
 */
public record CredentialForm(String form, Map<String, String> fields) {

    /** @param notices what was mended or looks wrong, a sentence each */
    public record Checked(Credential credential, List<String> notices) {}

    /** A mistake that leaves no credential. */
    public static final class Unfit extends Exception {
        private final String field;

        Unfit(String field, String what) {
            super(what);
            this.field = field;
        }

        /** The field it is about. */
        public String field() {
            return field;
        }
    }

    private static final Pattern HEADER_NAME = Pattern.compile("[!#$%&'*+.^_`|~0-9A-Za-z-]+");
    private static final Pattern LEADING_BEARER = Pattern.compile("(?i)^(bearer(?:[\\s:]+|$))+");
    private static final Pattern LEADING_BASIC = Pattern.compile("(?i)^(basic\\s+)+");
    private static final Pattern SCHEME = Pattern.compile("^[A-Za-z][A-Za-z0-9-]* +\\S.*");
    private static final int SHORTEST = 4;
    private static final int LONGEST = 8_192;
    private static final String SIGNATURE_PREFIX = "whsec_";

    public Checked check() throws Unfit {
        List<String> notices = new ArrayList<>();
        Credential credential = switch (form == null ? "" : form) {
            case "bearer" -> bearer(notices);
            case "basic" -> basic(notices);
            case "header" -> header(notices);
            case "query" -> new Credential.Query(name(notices), secret("value", notices));
            case "signature" -> signature(notices);
            default -> throw new Unfit("form", "the form is one of bearer, basic, header, query and signature");
        };
        return new Checked(credential, List.copyOf(notices));
    }

    private Credential bearer(List<String> notices) throws Unfit {
        String pasted = secret("token", notices);
        if (LEADING_BASIC.matcher(pasted).find()) {
            throw new Unfit("token", "this begins with `Basic`: give user and password in the form basic instead");
        }
        String token = LEADING_BEARER.matcher(pasted).replaceFirst("");
        if (token.isEmpty()) {
            throw new Unfit("token", "there is nothing after the word Bearer");
        }
        if (!token.equals(pasted)) {
            notices.add("The word Bearer in front of the token was taken off: Holtra puts it there itself, once.");
        }
        if (token.contains(" ")) {
            notices.add("The token holds a space, which tokens do not: was something else pasted with it?");
        }
        return new Credential.Bearer(token);
    }

    private Credential basic(List<String> notices) throws Unfit {
        String user = fields.getOrDefault("user", "").strip();
        if (user.isEmpty()) {
            throw new Unfit("user", "the user is missing");
        }
        if (user.contains(":")) {
            throw new Unfit("user", "a user cannot hold a colon (RFC 7617)");
        }
        return new Credential.Basic(user, secret("password", notices));
    }

    private Credential header(List<String> notices) throws Unfit {
        String name = name(notices);
        String value = secret("value", notices);
        if (!HEADER_NAME.matcher(name).matches()) {
            throw new Unfit("name", "`" + name + "` cannot be the name of a header");
        }
        if (name.equalsIgnoreCase("authorization")) {
            String once = value.replaceFirst("(?i)^(bearer|basic)(\\s+\\1)+\\s+", "$1 ");
            if (!once.equals(value)) {
                notices.add("The scheme word stood there more than once and was kept once.");
                value = once;
            }
            if (!SCHEME.matcher(value).matches()) {
                notices.add("The value of Authorization has no scheme word, such as Bearer, in front of it. "
                        + "If it is a token, save it in the form bearer.");
            }
        } else if (value.toLowerCase(Locale.ROOT).startsWith("bearer ")) {
            notices.add(
                    "The value begins with Bearer, which belongs to the header Authorization, not to " + name + ".");
        }
        return new Credential.Header(name, value);
    }

    private Credential signature(List<String> notices) throws Unfit {
        String secret = secret("secret", notices);
        String encoded = secret.startsWith(SIGNATURE_PREFIX) ? secret.substring(SIGNATURE_PREFIX.length()) : secret;
        try {
            if (Base64.getDecoder().decode(encoded).length < 16) {
                throw new Unfit("secret", "the secret is shorter than 16 bytes; Standard Webhooks wants 24 to 64");
            }
        } catch (IllegalArgumentException e) {
            throw new Unfit("secret", "the secret is not base64, with or without whsec_ in front of it");
        }
        return new Credential.Signature(SIGNATURE_PREFIX + encoded);
    }

    private String name(List<String> notices) throws Unfit {
        String name = fields.getOrDefault("name", "").strip();
        if (name.isEmpty()) {
            throw new Unfit(
                    "name", "the name of the " + form + (form.equals("query") ? " parameter" : "") + " is missing");
        }
        if (name.endsWith(":")) {
            notices.add("The colon after the name was taken off.");
            return name.substring(0, name.length() - 1).strip();
        }
        return name;
    }

    private String secret(String field, List<String> notices) throws Unfit {
        String pasted = fields.getOrDefault(field, "");
        String stripped = pasted.strip();
        if (stripped.isEmpty()) {
            throw new Unfit(field, "the " + field + " is missing");
        }
        if (stripped.length() < SHORTEST) {
            throw new Unfit(
                    field,
                    "the " + field + " is shorter than " + SHORTEST
                            + " characters: it would be guessed, and could not be masked where it is repeated");
        }
        if (stripped.length() > LONGEST) {
            throw new Unfit(field, "the " + field + " is longer than " + LONGEST + " characters");
        }
        if (stripped.chars().anyMatch(Character::isISOControl)) {
            throw new Unfit(field, "the " + field + " holds a line break or another control character");
        }
        if (!stripped.equals(pasted)) {
            notices.add("White space around the " + field + " was taken off.");
        }
        if (stripped.length() > 1
                && (stripped.startsWith("\"") && stripped.endsWith("\"")
                        || stripped.startsWith("<") && stripped.endsWith(">"))) {
            notices.add("The " + field + " stands between " + stripped.charAt(0)
                    + stripped.charAt(stripped.length() - 1) + ": are they part of it, or was a placeholder left in?");
        }
        return stripped;
    }
}
