package org.holtra.service.dispatch;

import java.util.List;
import java.util.Map;
import org.holtra.core.shape.Content;
import tools.jackson.databind.json.JsonMapper;

/**
 * The exact content of an attempt whose outcome is unknown, kept so that the same bytes go again under the same key
 * whatever has become of shape, facts and table meanwhile.
 */
record FrozenContent(
        String path, List<List<String>> query, Map<String, String> headers, String contentType, byte[] body) {

    private static final JsonMapper JSON = JsonMapper.shared();

    static byte[] freeze(Content content) {
        return JSON.writeValueAsBytes(new FrozenContent(
                content.path(),
                content.query().stream()
                        .map(parameter -> List.of(parameter.getKey(), parameter.getValue()))
                        .toList(),
                content.headers(),
                content.contentType(),
                content.body()));
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
