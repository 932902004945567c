package org.holtra.service.dispatch;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.shape.Content;
import org.holtra.core.shape.Envelope;
import tools.jackson.databind.json.JsonMapper;

/**
 * The exact content of an attempt whose outcome is unknown, kept so that the same bytes go again under the same key
 * whatever has become of shape, facts and table meanwhile.
 */
record FrozenContent(
        Map<String, String> texts,
        Map<String, List<List<String>>> named,
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
        Map<String, List<List<String>>> named = new LinkedHashMap<>();
        content.envelope()
                .named()
                .forEach((name, values) -> named.put(
                        name,
                        values.stream()
                                .map(one -> List.of(one.getKey(), one.getValue()))
                                .toList()));
        return JSON.writeValueAsBytes(
                new FrozenContent(content.envelope().texts(), named, content.contentType(), content.body(), place));
    }

    static Optional<Place> place(byte[] frozen) {
        return frozen == null
                ? Optional.empty()
                : Optional.ofNullable(JSON.readValue(frozen, FrozenContent.class).place);
    }

    static Content thaw(byte[] frozen) {
        FrozenContent kept = JSON.readValue(frozen, FrozenContent.class);
        Map<String, List<Map.Entry<String, String>>> named = new LinkedHashMap<>();
        kept.named.forEach((name, values) -> named.put(
                name,
                values.stream().map(one -> Map.entry(one.get(0), one.get(1))).toList()));
        return new Content(new Envelope(kept.texts, named), kept.contentType, kept.body);
    }
}
