package org.holtra.service.dispatch;

import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/** What a lane's shape made, for kinds whose destinations want its values and not its text. */
public final class ShapedJson {

    private ShapedJson() {}

    /**
     * Maps, lists, texts, numbers, booleans; null for no body.
     *
     * @throws IllegalArgumentException if it is no JSON, with a sentence for people
     */
    public static Object of(byte[] body) {
        try {
            return body == null ? null : JsonMapper.shared().readValue(body, Object.class);
        } catch (JacksonException e) {
            throw new IllegalArgumentException("the lane's shape makes no JSON: " + e.getOriginalMessage(), e);
        }
    }
}
