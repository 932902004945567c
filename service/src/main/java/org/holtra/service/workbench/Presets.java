package org.holtra.service.workbench;

import java.util.Arrays;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.setup.schema.Kind;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Starting points for inlets and outlets of well-known shapes, as their kinds bring them. */
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

    Presets(Collection<Kind> kinds) {
        all = kinds.stream()
                .sorted(Comparator.comparing(Kind::name).reversed())
                .flatMap(kind -> Arrays.stream(JsonMapper.shared().readValue(kind.presets(), Preset[].class)))
                .toList();
    }

    public List<Preset> all() {
        return all;
    }

    Optional<Preset> find(String name) {
        return all.stream().filter(preset -> preset.name().equals(name)).findFirst();
    }
}
