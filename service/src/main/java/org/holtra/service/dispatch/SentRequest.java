package org.holtra.service.dispatch;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.Map;

/**
 * The request of an attempt, as the journal keeps it beside the content.
 *
 * @param summary what was asked of whom, in one line
 * @param fields what was sent beside the content, by name
 * @param batch where the delivery's content stood among others; null if it went by itself
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record SentRequest(String summary, Map<String, String> fields, Batched batch) {

    /**
     * @param key of the whole request
     * @param messages how many stood in it
     * @param number of this one, from 1
     */
    public record Batched(String key, int messages, int number) {}

    static SentRequest of(Exchange exchange, FrozenContent.Place place) {
        return new SentRequest(
                exchange.summary(),
                exchange.fields(),
                place == null ? null : new Batched(place.batch(), place.messages(), place.number()));
    }

    /** The request of something that went by itself. */
    public static SentRequest of(Exchange exchange) {
        return of(exchange, null);
    }
}
