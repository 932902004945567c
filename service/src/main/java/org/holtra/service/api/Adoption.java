package org.holtra.service.api;

import java.util.Map;
import org.holtra.service.setups.SetupRefused;
import org.holtra.service.setups.Setups;
import org.springframework.http.HttpStatus;

/** How requests say that a setup is to be adopted, and how they are told that it was not. */
final class Adoption {

    private Adoption() {}

    static Setups.Waiting waiting(String word) {
        return switch (word) {
            case "refuse" -> Setups.Waiting.REFUSE;
            case "leave" -> Setups.Waiting.LEAVE;
            case "drop" -> Setups.Waiting.DROP;
            case "follow" -> Setups.Waiting.FOLLOW;
            default ->
                throw Problem.badRequest("waiting", "`" + word + "` is not one of refuse, leave, drop and follow.");
        };
    }

    static Problem refused(SetupRefused e) {
        HttpStatus status = e.why() == SetupRefused.Why.WRONG ? HttpStatus.UNPROCESSABLE_CONTENT : HttpStatus.CONFLICT;
        return new Problem(
                status,
                "Not adopted",
                Character.toUpperCase(e.getMessage().charAt(0)) + e.getMessage().substring(1),
                Map.of(
                        "problems", e.problems(),
                        "why", e.why().name().toLowerCase(java.util.Locale.ROOT),
                        "waiting", e.waiting(),
                        "made", e.made()));
    }
}
