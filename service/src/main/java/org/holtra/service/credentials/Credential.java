package org.holtra.service.credentials;

import com.fasterxml.jackson.annotation.JsonIgnore;
import java.util.List;
import java.util.Map;
import java.util.Set;

/**
 * A named secret or set of secrets. It is never shown: its text form tells nothing of it.
 *
 * @param form the name of its {@link CredentialForm}
 * @param fields as the form has them
 * @param secretFields those that must never be shown
 */
public record Credential(String form, Map<String, String> fields, Set<String> secretFields) {

    public Credential {
        fields = Map.copyOf(fields);
        secretFields = Set.copyOf(secretFields);
    }

    /** @throws IllegalArgumentException if its form has no such field */
    public String field(String name) {
        String value = fields.get(name);
        if (value == null) {
            throw new IllegalArgumentException("a " + form + " credential has no field " + name);
        }
        return value;
    }

    /** Texts to mask wherever they turn up. */
    @JsonIgnore
    public List<String> secrets() {
        return secretFields.stream().map(this::field).toList();
    }

    @Override
    public String toString() {
        return "a " + form + " credential";
    }
}
