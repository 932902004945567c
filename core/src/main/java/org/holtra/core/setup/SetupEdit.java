package org.holtra.core.setup;

import java.util.ArrayList;
import java.util.List;
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

    /** The codec's own text: the script, or the layout in YAML; empty if the model has none. */
    public Optional<String> codec(String model) {
        for (String sort : List.of("script", "layout")) {
            Optional<Part> part = part("models", model, "codec", sort);
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
     * @param sort {@code script} or {@code layout}
     * @throws IllegalArgumentException if the model is written in braces, where lines cannot be put in
     */
    public String withCodec(String model, String sort, String source) {
        List<String> next = new ArrayList<>(lines);
        Optional<Part> codec = part("models", model, "codec");
        Optional<Part> whole = part("models", model);
        if (whole.isPresent() && flow(whole.get().value)) {
            throw new IllegalArgumentException("model `" + model
                    + "` is written in braces; write it as a block in the setup file, or change its codec there");
        }
        if (codec.isPresent()) {
            next.subList(codec.get().firstLine, codec.get().endLine).clear();
            next.addAll(codec.get().firstLine, written(codec.get().indent, sort, source));
        } else if (whole.isPresent()) {
            next.addAll(whole.get().firstLine + 1, written(whole.get().indent + STEP, sort, source));
        } else {
            Optional<Part> models = part("models");
            List<String> block = new ArrayList<>();
            if (models.isEmpty()) {
                block.add("models:");
            }
            block.add(" ".repeat(STEP) + model + ":");
            block.addAll(written(2 * STEP, sort, source));
            next.addAll(models.map(part -> part.firstLine + 1).orElse(next.size()), block);
        }
        return String.join("\n", next) + "\n";
    }

    private static List<String> written(int indent, String sort, String source) {
        String margin = " ".repeat(indent);
        List<String> block = new ArrayList<>();
        block.add(margin + "codec:");
        block.add(margin + " ".repeat(STEP) + sort + (sort.equals("script") ? ": |" : ":"));
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
