package org.holtra.service.credentials;

import java.security.SecureRandom;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;

/** What a credential consists of, such as a user and a password. A kind brings the forms that its protocol knows. */
public interface CredentialForm {

    /**
     * @param secret whether it must never be shown
     * @param shape of its text
     */
    record Field(String name, String title, boolean secret, Shape shape) {

        public Field(String name, String title, boolean secret) {
            this(name, title, secret, Shape.LINE);
        }
    }

    /** How a field's text looks. */
    enum Shape {
        LINE,
        /** One line, or nothing. */
        OPTIONAL_LINE,
        /** Certificates or a key, in several lines (RFC 7468). */
        PEM
    }

    /** @param notices what was mended or looks wrong, a sentence each */
    record Checked(Credential credential, List<String> notices) {}

    /** A mistake that leaves no credential. */
    final class Unfit extends Exception {

        private static final long serialVersionUID = 1L;
        private final String field;

        public Unfit(String field, String what) {
            super(what);
            this.field = field;
        }

        /** The field it is about. */
        public String field() {
            return field;
        }
    }

    /** Its name, in lower case. */
    String word();

    /** Where the secret stands in the protocol; a phrase. */
    String about();

    List<Field> fields();

    /**
     * Checks what a person pasted. What was surely not meant is mended (white space around a secret, a scheme word in front of
     * it); what may have been meant is only pointed out.
     *
     * @throws Unfit if no credential can be made of it
     */
    Checked check(Map<String, String> pasted) throws Unfit;

    /** The fields of a new secret of this form; empty if such a secret is always made elsewhere. */
    default Optional<Map<String, String>> generated(SecureRandom random) {
        return Optional.empty();
    }

    /** The fields of a new secret in place of another, of which what is no secret stays, such as the user. */
    default Optional<Map<String, String>> renewed(Credential before, SecureRandom random) {
        return generated(random).map(fresh -> {
            Map<String, String> fields = new LinkedHashMap<>(fresh);
            fields().stream()
                    .filter(field -> !field.secret())
                    .forEach(field -> fields.put(field.name(), before.field(field.name())));
            return fields;
        });
    }

    default Credential credential(Map<String, String> values) {
        return new Credential(
                word(),
                values,
                fields().stream().filter(Field::secret).map(Field::name).collect(Collectors.toSet()));
    }
}
