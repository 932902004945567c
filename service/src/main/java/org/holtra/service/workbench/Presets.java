package org.holtra.service.workbench;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Starting points for inlets and outlets of well-known shapes. */
@Component
public class Presets {

    /**
     * @param of {@code inlet} or {@code outlet}
     * @param blanks what a person has to fill in; in the texts they stand as <code>[[name]]</code>
     * @param credential the form of credential that is usual, or null
     * @param part the inlet or outlet, with blanks
     * @param shape for lanes to the outlet; null for inlets
     * @param accepts a JSON Schema of the bodies that the destination takes, or null
     */
    public record Preset(
            String name,
            String of,
            String title,
            String about,
            List<Blank> blanks,
            String credential,
            Map<String, Object> part,
            Map<String, Object> shape,
            JsonNode accepts) {}

    public record Blank(String name, String label, String example) {}

    private final List<Preset> all;

    Presets() {
        try (InputStream file = Presets.class.getResourceAsStream("presets.json")) {
            all = List.of(JsonMapper.shared().readValue(file, Preset[].class));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    public List<Preset> all() {
        return all;
    }

    Optional<Preset> find(String name) {
        return all.stream().filter(preset -> preset.name().equals(name)).findFirst();
    }
}
