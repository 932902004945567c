package org.holtra.core.setup.document;

import java.util.List;
import java.util.Map;
import org.snakeyaml.engine.v2.api.Dump;
import org.snakeyaml.engine.v2.api.DumpSettings;
import org.snakeyaml.engine.v2.common.FlowStyle;

/** Values written as the lines of a setup file. */
public final class YamlLines {

    private static final int WIDTH = 110;
    private static final DumpSettings BLOCK = DumpSettings.builder()
            .setDefaultFlowStyle(FlowStyle.BLOCK)
            .setWidth(WIDTH)
            .setSplitLines(false)
            .build();
    private static final DumpSettings FLOW = DumpSettings.builder()
            .setDefaultFlowStyle(FlowStyle.FLOW)
            .setWidth(Integer.MAX_VALUE)
            .setSplitLines(false)
            .build();

    private YamlLines() {}

    /** One field. Short lists and objects of plain values go on its own line. */
    static List<String> of(String name, Object value, int indent) {
        String margin = " ".repeat(indent);
        if (flat(value)) {
            String line = new Dump(FLOW).dumpToString(Map.of(name, value)).strip();
            line = margin + line.substring(1, line.length() - 1);
            if (line.length() <= WIDTH) {
                return List.of(line);
            }
        }
        if (value instanceof Map<?, ?> map && !map.isEmpty()) {
            List<String> lines = new java.util.ArrayList<>();
            lines.add(margin + new Dump(BLOCK).dumpToString(name).strip() + ":");
            map.forEach((field, inner) -> lines.addAll(of(field.toString(), inner, indent + 2)));
            return lines;
        }
        return new Dump(BLOCK)
                .dumpToString(java.util.Collections.singletonMap(name, value))
                .stripTrailing()
                .lines()
                .map(line -> line.isBlank() ? "" : margin + line)
                .toList();
    }

    private static boolean flat(Object value) {
        return switch (value) {
            case Map<?, ?> map ->
                !map.isEmpty() && map.size() <= 6 && map.values().stream().allMatch(YamlLines::scalar);
            case List<?> list -> list.stream().allMatch(YamlLines::scalar);
            case null, default -> false;
        };
    }

    private static boolean scalar(Object value) {
        return !(value instanceof Map<?, ?>)
                && !(value instanceof List<?>)
                && !(value instanceof String text && text.contains("\n"));
    }
}
