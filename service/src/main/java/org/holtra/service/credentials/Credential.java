package org.holtra.service.credentials;

import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import java.util.List;

/** A named secret or set of secrets. It is never shown: its text form says nothing of it. */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "form")
@JsonSubTypes({
    @JsonSubTypes.Type(value = Credential.Bearer.class, name = "bearer"),
    @JsonSubTypes.Type(value = Credential.Basic.class, name = "basic"),
    @JsonSubTypes.Type(value = Credential.Header.class, name = "header"),
    @JsonSubTypes.Type(value = Credential.Query.class, name = "query"),
    @JsonSubTypes.Type(value = Credential.Signature.class, name = "signature")
})
public sealed interface Credential {

    String form();

    /** What must never be shown, for masking wherever it turns up. */
    List<String> secrets();

    /** A token in {@code Authorization: Bearer …} (RFC 6750). */
    record Bearer(String token) implements Credential {
        @Override
        public String form() {
            return "bearer";
        }

        @Override
        public List<String> secrets() {
            return List.of(token);
        }

        @Override
        public String toString() {
            return "a bearer credential";
        }
    }

    /** A user and a password in {@code Authorization: Basic …} (RFC 7617). */
    record Basic(String user, String password) implements Credential {
        @Override
        public String form() {
            return "basic";
        }

        @Override
        public List<String> secrets() {
            return List.of(password);
        }

        @Override
        public String toString() {
            return "a basic credential";
        }
    }

    /** A key in a header of this name. */
    record Header(String name, String value) implements Credential {
        @Override
        public String form() {
            return "header";
        }

        @Override
        public List<String> secrets() {
            return List.of(value);
        }

        @Override
        public String toString() {
            return "a header credential";
        }
    }

    /** A key in a query parameter of this name. */
    record Query(String name, String value) implements Credential {
        @Override
        public String form() {
            return "query";
        }

        @Override
        public List<String> secrets() {
            return List.of(value);
        }

        @Override
        public String toString() {
            return "a query credential";
        }
    }

    /** A secret that signs bodies, as Standard Webhooks has it: {@code whsec_} and base64. */
    record Signature(String secret) implements Credential {
        @Override
        public String form() {
            return "signature";
        }

        @Override
        public List<String> secrets() {
            return List.of(secret);
        }

        @Override
        public String toString() {
            return "a signature credential";
        }
    }
}
