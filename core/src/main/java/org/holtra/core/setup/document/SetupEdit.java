package org.holtra.core.setup.document;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.snakeyaml.engine.v2.api.LoadSettings;
import org.snakeyaml.engine.v2.api.lowlevel.Compose;
import org.snakeyaml.engine.v2.common.FlowStyle;
import org.snakeyaml.engine.v2.nodes.MappingNode;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.NodeTuple;
import org.snakeyaml.engine.v2.nodes.ScalarNode;

/** Changes one part of a setup file and leaves every other line, comments too, as a person wrote it. */
public final class SetupEdit {

    private static final int STEP = 2;

    /** A part's lines in a file. */
    private record Part(int firstLine, int endLine, int indent, Node value) {}

    private final List<String> lines;
    private final Node root;

    /** @param yaml a setup file that is good */
    public SetupEdit(String yaml) {
        lines = new ArrayList<>(yaml.lines().toList());
        root = new Compose(LoadSettings.builder().build()).composeString(yaml).orElse(null);
    }

    /** The file as it stands. */
    public String yaml() {
        return String.join("\n", lines) + "\n";
    }

    /** The codec's own text: the script, or the layout in YAML; empty if the model has none. */
    public Optional<String> codec(String model) {
        for (String type : List.of("script", "layout")) {
            Optional<Part> part = part("models", model, "codec", type);
            if (part.isPresent()) {
                if (part.get().value instanceof ScalarNode script) {
                    return Optional.of(script.getValue());
                }
                return Optional.of(String.join("\n", lines.subList(part.get().firstLine + 1, part.get().endLine))
                        .stripIndent());
            }
        }
        return Optional.empty();
    }

    /**
     * The file with this codec for a model, which is added if there is none of that name.
     *
     * @param type {@code script} or {@code layout}
     * @throws IllegalArgumentException if the model is written in braces, where lines cannot be put in
     */
    public String withCodec(String model, String type, String source) {
        List<String> next = new ArrayList<>(lines);
        Optional<Part> codec = part("models", model, "codec");
        Optional<Part> whole = part("models", model);
        if (whole.isPresent() && flow(whole.get().value)) {
            throw new IllegalArgumentException("model `" + model
                    + "` is written in braces; write it as a block in the setup file, or change its codec there");
        }
        if (codec.isPresent()) {
            next.subList(codec.get().firstLine, codec.get().endLine).clear();
            next.addAll(codec.get().firstLine, written(codec.get().indent, type, source));
        } else if (whole.isPresent()) {
            next.addAll(whole.get().firstLine + 1, written(whole.get().indent + STEP, type, source));
        } else {
            Optional<Part> models = part("models");
            List<String> block = new ArrayList<>();
            if (models.isEmpty()) {
                block.add("models:");
            }
            block.add(" ".repeat(STEP) + model + ":");
            block.addAll(written(2 * STEP, type, source));
            next.addAll(models.map(part -> part.firstLine + 1).orElse(next.size()), block);
        }
        return String.join("\n", next) + "\n";
    }

    /** The fields of a part, such as a lane; empty if there is none of that name. */
    public Optional<Map<String, Object>> content(String things, String name) {
        return part(things, name).map(part -> SetupDocument.block(SetupDocument.plain(part.value)));
    }

    /** The names of all parts of a type, in the order they are written. */
    public List<String> names(String things) {
        return part(things).map(part -> part.value).map(SetupDocument::plain).map(SetupDocument::block).stream()
                .flatMap(block -> block.keySet().stream())
                .toList();
    }

    /** A part's lines as they are written; empty if there is none of that name. */
    public Optional<String> text(String things, String name) {
        return part(things, name)
                .map(part -> String.join("\n", lines.subList(part.firstLine, part.endLine))
                        .stripIndent());
    }

    /**
     * The file with this content for a part, which is added if there is none of that name. Lines of fields that stay as
     * they are stay as they are written.
     *
     * @param things {@code models}, {@code lookups}, {@code inlets}, {@code outlets} or {@code lanes}
     */
    public String with(String things, String name, Map<String, Object> content) {
        Optional<Part> there = part(things, name);
        Optional<Part> block = part(things);
        if (there.isEmpty()
                || flow(there.get().value)
                || block.map(part -> flow(part.value)).orElse(false)) {
            return whole(things, name, content, there, block);
        }
        Map<String, Object> before = SetupDocument.block(SetupDocument.plain(there.get().value));
        List<String> next = new ArrayList<>(lines);
        int indent = there.get().indent + STEP;
        List<String> added = new ArrayList<>();
        // From the last line to the first, so that the places of those still to be changed stay true.
        content.forEach((field, value) -> {
            if (!before.containsKey(field)) {
                added.addAll(YamlLines.of(field, value, indent));
            }
        });
        next.addAll(there.get().endLine, added);
        List<String> fields = new ArrayList<>(before.keySet());
        fields.sort(Comparator.comparingInt(
                        (String field) -> part(things, name, field).orElseThrow().firstLine)
                .reversed());
        for (String field : fields) {
            if (!Objects.equals(before.get(field), content.get(field))) {
                Part lines = part(things, name, field).orElseThrow();
                next.subList(lines.firstLine, lines.endLine).clear();
                if (content.containsKey(field)) {
                    next.addAll(lines.firstLine, YamlLines.of(field, content.get(field), indent));
                }
            }
        }
        return text(next);
    }

    private String whole(
            String things, String name, Map<String, Object> content, Optional<Part> there, Optional<Part> block) {
        if (block.isPresent() && flow(block.get().value)) {
            // All of these parts stand in braces: they are written as blocks, for lines cannot be put into braces.
            Map<String, Object> all = SetupDocument.block(SetupDocument.plain(block.get().value));
            all.put(name, content);
            List<String> next = new ArrayList<>(lines);
            next.subList(block.get().firstLine, block.get().endLine).clear();
            next.addAll(block.get().firstLine, YamlLines.of(things, all, 0));
            return text(next);
        }
        List<String> next = new ArrayList<>(lines);
        if (there.isPresent()) {
            next.subList(there.get().firstLine, there.get().endLine).clear();
            next.addAll(there.get().firstLine, YamlLines.of(name, content, there.get().indent));
        } else if (block.isPresent()) {
            List<String> added = new ArrayList<>(List.of(""));
            added.addAll(YamlLines.of(name, content, STEP));
            next.addAll(block.get().endLine, added);
        } else {
            next.add("");
            next.addAll(YamlLines.of(things, Map.of(name, content), 0));
        }
        return text(next);
    }

    /** The file without a part, and without the comment that stands right above it. */
    public String without(String things, String name) {
        Part part = part(things, name).orElseThrow();
        Part block = part(things).orElseThrow();
        List<String> next = new ArrayList<>(lines);
        Map<String, Object> all = SetupDocument.block(SetupDocument.plain(block.value));
        all.remove(name);
        if (all.isEmpty() || flow(block.value)) {
            next.subList(block.firstLine, block.endLine).clear();
            if (!all.isEmpty()) {
                next.addAll(block.firstLine, YamlLines.of(things, all, 0));
            }
            return text(next);
        }
        int first = part.firstLine;
        while (first > block.firstLine + 1 && lines.get(first - 1).strip().startsWith("#")) {
            first--;
        }
        int end = part.endLine;
        while (end < lines.size() && lines.get(end).isBlank()) {
            end++;
        }
        next.subList(first, end).clear();
        return text(next);
    }

    private static String text(List<String> lines) {
        return String.join("\n", lines) + "\n";
    }

    private static List<String> written(int indent, String type, String source) {
        String margin = " ".repeat(indent);
        List<String> block = new ArrayList<>();
        block.add(margin + "codec:");
        block.add(margin + " ".repeat(STEP) + type + (type.equals("script") ? ": |" : ":"));
        source.stripTrailing()
                .replace("\t", "  ")
                .lines()
                .map(line -> line.isBlank() ? "" : margin + " ".repeat(2 * STEP) + line)
                .forEach(block::add);
        return block;
    }

    private static boolean flow(Node node) {
        return node instanceof MappingNode mapping && mapping.getFlowStyle() == FlowStyle.FLOW;
    }

    private Optional<Part> part(String... path) {
        Node at = root;
        Part found = null;
        for (String name : path) {
            Optional<NodeTuple> tuple = at instanceof MappingNode mapping
                    ? mapping.getValue().stream()
                            .filter(one -> one.getKeyNode() instanceof ScalarNode key
                                    && key.getValue().equals(name))
                            .findFirst()
                    : Optional.empty();
            if (tuple.isEmpty()) {
                return Optional.empty();
            }
            var mark = tuple.get().getKeyNode().getStartMark().orElseThrow();
            at = tuple.get().getValueNode();
            found = new Part(mark.getLine(), end(mark.getLine(), mark.getColumn()), mark.getColumn(), at);
        }
        return Optional.ofNullable(found);
    }

    /** The first line after a block: the next that is written no further in than its name, blank lines before it left. */
    private int end(int line, int indent) {
        int end = line + 1;
        int last = end;
        while (end < lines.size()) {
            String text = lines.get(end);
            if (!text.isBlank()) {
                if (text.length() - text.stripLeading().length() <= indent) {
                    break;
                }
                last = end + 1;
            }
            end++;
        }
        return last;
    }
}
