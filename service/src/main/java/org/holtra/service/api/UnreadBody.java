package org.holtra.service.api;

import java.util.Arrays;
import java.util.List;
import java.util.Map;
import org.holtra.core.text.Nearest;
import tools.jackson.core.JacksonException;
import tools.jackson.core.exc.StreamReadException;
import tools.jackson.databind.exc.InvalidFormatException;
import tools.jackson.databind.exc.MismatchedInputException;
import tools.jackson.databind.exc.UnrecognizedPropertyException;

/** Why the body of a call could not be read, where in it, and how to mend it. */
final class UnreadBody {

    private UnreadBody() {}

    /** @param cause null if there was no body */
    static Problem problem(Throwable cause) {
        return switch (cause) {
            case UnrecognizedPropertyException e -> unknownField(e);
            case InvalidFormatException e ->
                Problem.badRequest(
                        place(e),
                        "`" + place(e) + "` is " + article(e.getTargetType()) + "; `" + e.getValue() + "` is none."
                                + wanted(e.getTargetType()));
            case MismatchedInputException e
            when !e.getPath().isEmpty() && e.getTargetType() != null ->
                Problem.badRequest(place(e), "`" + place(e) + "` is " + article(e.getTargetType()) + ".");
            case StreamReadException e ->
                Problem.badRequest(
                        "body",
                        "The body is not JSON: line " + e.getLocation().getLineNr() + ", column "
                                + e.getLocation().getColumnNr() + ": " + firstLine(e.getOriginalMessage()) + ".");
            case JacksonException e ->
                Problem.badRequest("body", "The body cannot be read: " + firstLine(e.getOriginalMessage()) + ".");
            case null, default -> Problem.badRequest("body", "The call needs a body of JSON.");
        };
    }

    private static Problem unknownField(UnrecognizedPropertyException e) {
        List<String> known =
                e.getKnownPropertyIds().stream().map(String::valueOf).sorted().toList();
        String takes = known.isEmpty() ? "It takes none." : "It takes " + String.join(", ", known) + ".";
        return Problem.badRequest(
                place(e),
                "The call has no field `" + place(e) + "`. "
                        + Nearest.of(e.getPropertyName(), known)
                                .map(near -> "Did you mean `" + near + "`? ")
                                .orElse("")
                        + takes);
    }

    private static String place(JacksonException e) {
        StringBuilder place = new StringBuilder();
        for (JacksonException.Reference part : e.getPath()) {
            if (part.getPropertyName() == null) {
                place.append('[').append(part.getIndex()).append(']');
            } else {
                place.append(place.isEmpty() ? "" : ".").append(part.getPropertyName());
            }
        }
        return place.isEmpty() ? "body" : place.toString();
    }

    private static final Map<String, String> TYPES = Map.of(
            "Instant", "a time, such as 2026-04-18T05:30:00Z",
            "Duration", "a duration, such as PT15M",
            "String", "a text",
            "Boolean", "true or false",
            "boolean", "true or false",
            "Integer", "a whole number",
            "int", "a whole number",
            "Long", "a whole number",
            "long", "a whole number");

    private static String article(Class<?> type) {
        if (type.isEnum()) {
            return "one of a few words";
        }
        if (Number.class.isAssignableFrom(type) || type.isPrimitive()) {
            return TYPES.getOrDefault(type.getSimpleName(), "a number");
        }
        if (List.class.isAssignableFrom(type)) {
            return "a list";
        }
        return TYPES.getOrDefault(type.getSimpleName(), "an object");
    }

    private static String wanted(Class<?> type) {
        if (!type.isEnum()) {
            return "";
        }
        List<String> words =
                Arrays.stream(type.getEnumConstants()).map(String::valueOf).toList();
        return " They are " + String.join(", ", words) + ".";
    }

    private static String firstLine(String text) {
        return text.lines().findFirst().orElse("").strip();
    }
}
