package org.holtra.service.tokens;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.holtra.service.credentials.CredentialForm;
import tools.jackson.core.JacksonException;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/**
 * Takes apart what people paste whole into one field: a connection string ({@code name=value;…}) or a key file in JSON. Its parts
 * are found by the names of the fields, or by those that OAuth 2.0 gives them (RFC 6749, RFC 7591, RFC 8414).
 */
final class PastedParts {

    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Map<String, String> STANDARD = Map.of(
            "tokenendpoint", "tokenurl",
            "tokenuri", "tokenurl",
            "authorizationendpoint", "authorizeurl",
            "privatekey", "key",
            "privatekeyid", "keyid",
            "kid", "keyid",
            "iss", "issuer",
            "sub", "subject",
            "aud", "audience",
            "scopes", "scope");

    private PastedParts() {}

    /** The fields that were given, and those that were found in one of them. */
    static Map<String, String> apart(
            Map<String, String> given, List<CredentialForm.Field> fields, List<String> notices) {
        Map<String, String> all = new LinkedHashMap<>(given);
        for (CredentialForm.Field field : fields) {
            Optional<Map<String, String>> parts = parts(given.getOrDefault(field.name(), ""));
            if (parts.isPresent() && take(parts.get(), field, fields, all)) {
                notices.add("What was pasted into " + field.title() + " was taken apart: "
                        + String.join(", ", parts.get().keySet()) + ".");
            }
        }
        return all;
    }

    /** Whether anything in it belongs to a field. */
    private static boolean take(
            Map<String, String> parts,
            CredentialForm.Field pastedInto,
            List<CredentialForm.Field> fields,
            Map<String, String> all) {
        Map<String, String> known = new TreeMap<>();
        parts.forEach((name, value) -> known.put(plain(name), value));
        boolean found = false;
        for (CredentialForm.Field field : fields) {
            String value = known.get(field.name().toLowerCase(Locale.ROOT));
            boolean free = all.getOrDefault(field.name(), "").isBlank() || field.equals(pastedInto);
            if (value != null && free) {
                all.put(field.name(), value);
                found = true;
            }
        }
        return found;
    }

    private static String plain(String name) {
        String plain = name.toLowerCase(Locale.ROOT).replaceAll("[^a-z0-9]", "");
        return STANDARD.getOrDefault(plain, plain);
    }

    private static Optional<Map<String, String>> parts(String pasted) {
        String text = pasted.strip();
        if (text.startsWith("{")) {
            try {
                Map<String, Object> read = JSON.readValue(text, new TypeReference<>() {});
                Map<String, String> parts = new LinkedHashMap<>();
                read.forEach((name, value) -> parts.put(name, String.valueOf(value)));
                return Optional.of(parts);
            } catch (JacksonException e) {
                return Optional.empty(); // it is looked at as it stands
            }
        }
        String[] pairs = text.split(";");
        if (pairs.length < 2) {
            return Optional.empty();
        }
        Map<String, String> parts = new LinkedHashMap<>();
        for (String pair : pairs) {
            // A value may hold the sign too: base64 ends in it.
            String[] sides = pair.split("=", 2);
            if (sides.length < 2 || !sides[0].strip().matches("[A-Za-z][A-Za-z0-9_-]*")) {
                return Optional.empty();
            }
            parts.put(sides[0].strip(), sides[1].strip());
        }
        return Optional.of(parts);
    }
}
