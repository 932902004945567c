package org.holtra.service.dispatch;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.shape.Content;
import tools.jackson.databind.json.JsonMapper;

/**
 * The exact content of an attempt whose outcome is unknown, kept so that the same bytes go again under the same key
 * whatever has become of shape, facts and table meanwhile.
 */
record FrozenContent(
        String path,
        List<List<String>> query,
        Map<String, String> headers,
        String contentType,
        byte[] body,
        Place place) {

    /**
     * Where it stood in a batch.
     *
     * @param batch the key of the batch
     * @param messages how many stood in it
     * @param number of this one, from 1
     */
    record Place(String batch, int messages, int number) {}

    private static final JsonMapper JSON = JsonMapper.shared();

    /** @param place null if it went by itself */
    static byte[] freeze(Content content, Place place) {
        return JSON.writeValueAsBytes(new FrozenContent(
                content.path(),
                content.query().stream()
                        .map(parameter -> List.of(parameter.getKey(), parameter.getValue()))
                        .toList(),
                content.headers(),
                content.contentType(),
                content.body(),
                place));
    }

    static Optional<Place> place(byte[] frozen) {
        return frozen == null
                ? Optional.empty()
                : Optional.ofNullable(JSON.readValue(frozen, FrozenContent.class).place);
    }

    static Content thaw(byte[] frozen) {
        FrozenContent kept = JSON.readValue(frozen, FrozenContent.class);
        return new Content(
                kept.path,
                kept.query.stream()
                        .map(parameter -> Map.entry(parameter.get(0), parameter.get(1)))
                        .toList(),
                kept.headers,
                kept.contentType,
                kept.body);
    }
}
