package org.holtra.service.credentials;

import java.util.List;

/** A secret as a person pasted it, with the mistakes that pasting brings. */
public final class PastedSecret {

    private static final int SHORTEST = 4;
    private static final int LONGEST = 8_192;

    private PastedSecret() {}

    /**
     * @param pasted may be null
     * @param notices gets a sentence for each thing that was mended or looks wrong
     * @throws CredentialForm.Unfit if it is missing, too short, too long, or holds control characters
     */
    public static String checked(String field, String pasted, List<String> notices) throws CredentialForm.Unfit {
        String stripped = pasted == null ? "" : pasted.strip();
        if (stripped.isEmpty()) {
            throw new CredentialForm.Unfit(field, "the " + field + " is missing");
        }
        if (stripped.length() < SHORTEST) {
            throw new CredentialForm.Unfit(
                    field,
                    "the " + field + " is shorter than " + SHORTEST
                            + " characters: it would be guessed, and could not be masked where it is repeated");
        }
        if (stripped.length() > LONGEST) {
            throw new CredentialForm.Unfit(field, "the " + field + " is longer than " + LONGEST + " characters");
        }
        if (stripped.chars().anyMatch(Character::isISOControl)) {
            throw new CredentialForm.Unfit(
                    field, "the " + field + " contains a line break or another control character");
        }
        if (!stripped.equals(pasted)) {
            notices.add("White space around the " + field + " was removed.");
        }
        if (stripped.startsWith("\"") && stripped.endsWith("\"")
                || stripped.startsWith("<") && stripped.endsWith(">")) {
            notices.add("The " + field + " is enclosed in " + stripped.charAt(0)
                    + stripped.charAt(stripped.length() - 1) + ": are they part of it, or was a placeholder left in?");
        }
        return stripped;
    }
}
