package org.holtra.service.tokens;

import java.util.List;
import java.util.Optional;

/** There is no token to present, with the reason in a sentence. */
public final class TokenFailure extends Exception {

    private static final long serialVersionUID = 1L;

    /** What it takes to have one again. */
    public enum Kind {
        /** Time: the authorization server could not be asked. */
        LATER("later"),
        /** Somebody who mends the credential. */
        BLOCKED("blocked"),
        /** The owner, who must consent anew. */
        REVOKED("revoked");

        private final String word;

        Kind(String word) {
            this.word = word;
        }

        public String word() {
            return word;
        }

        static Optional<Kind> of(String word) {
            return List.of(values()).stream()
                    .filter(one -> one.word.equals(word))
                    .findFirst();
        }
    }

    private final Kind kind;

    TokenFailure(Kind kind, String reason) {
        super(reason);
        this.kind = kind;
    }

    public Kind kind() {
        return kind;
    }
}
