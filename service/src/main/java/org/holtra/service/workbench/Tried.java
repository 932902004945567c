package org.holtra.service.workbench;

import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Explanation;
import org.holtra.core.setup.document.SetupProblem;

/**
 * What a lane makes of a message.
 *
 * @param problems of the lane itself; then there is nothing else
 * @param unreadable why the message could not be read; null if it was
 * @param subject the message as expressions see it; null if it could not be read
 * @param whyNot why the lane does not take it; null if it does
 * @param becomes what becomes of it in the lane's memory; null if it goes by itself
 * @param explanation of the condition, part by part; null if there is none
 * @param requests one, or one for each point
 * @param warnings in sentences
 */
public record Tried(
        List<SetupProblem> problems,
        String unreadable,
        Subject subject,
        String whyNot,
        String becomes,
        Explanation explanation,
        List<Request> requests,
        List<String> warnings) {

    /** @param id of the message; null if it was pasted */
    public record Subject(
            String id,
            String inlet,
            Object data,
            Map<String, Object> meta,
            Map<String, Object> device,
            Map<String, String> units) {}

    /**
     * A request as it would be sent.
     *
     * @param point of the device, or null
     * @param failure why the shape could not be filled, at {@code failedAt}; null if it could
     * @param summary what would be asked of whom, in one line; null if it could not be made
     * @param fields what would be sent beside the body, by name, secrets masked
     * @param text the body as text; null if it is none
     * @param base64 the body where it is no text; else null
     * @param size of the body in bytes
     */
    public record Request(
            String point,
            String failure,
            String failedAt,
            String summary,
            Map<String, String> fields,
            String text,
            String base64,
            int size) {

        static Request failed(String point, String failure, String at) {
            return new Request(point, failure, at, null, Map.of(), null, null, 0);
        }
    }

    static Tried wrong(List<SetupProblem> problems) {
        return new Tried(problems, null, null, null, null, null, List.of(), List.of());
    }

    static Tried notRead(String why) {
        return new Tried(List.of(), why, null, null, null, null, List.of(), List.of());
    }
}
