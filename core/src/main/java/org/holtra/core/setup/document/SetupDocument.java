package org.holtra.core.setup.document;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.snakeyaml.engine.v2.api.LoadSettings;
import org.snakeyaml.engine.v2.api.lowlevel.Compose;
import org.snakeyaml.engine.v2.exceptions.Mark;
import org.snakeyaml.engine.v2.exceptions.MarkedYamlEngineException;
import org.snakeyaml.engine.v2.exceptions.YamlEngineException;
import org.snakeyaml.engine.v2.nodes.MappingNode;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.NodeTuple;
import org.snakeyaml.engine.v2.nodes.ScalarNode;
import org.snakeyaml.engine.v2.nodes.SequenceNode;
import org.snakeyaml.engine.v2.nodes.Tag;

/**
 * A setup file (YAML 1.2, core schema) as plain values, with the line of each. Places are JSON pointers (RFC 6901);
 * that of a field is where its name stands, so that an error points at the line a person has to change.
 */
public final class SetupDocument {

    private static final int MOST_CHARACTERS = 4 << 20;

    private final Map<String, Mark> places = new HashMap<>();
    private final List<SetupProblem> problems = new ArrayList<>();
    private final Set<Node> met = Collections.newSetFromMap(new IdentityHashMap<>());
    private Object root = Map.of();

    private SetupDocument() {}

    public static SetupDocument parse(String text) {
        SetupDocument document = new SetupDocument();
        LoadSettings settings = LoadSettings.builder()
                .setLabel("setup")
                .setCodePointLimit(MOST_CHARACTERS)
                .build();
        try {
            new Compose(settings).composeString(text).ifPresent(node -> document.root = document.value(node, ""));
        } catch (MarkedYamlEngineException e) {
            Mark mark = e.getProblemMark().or(e::getContextMark).orElse(null);
            document.problems.add(new SetupProblem(
                    mark == null ? 1 : mark.getLine() + 1,
                    mark == null ? 1 : mark.getColumn() + 1,
                    "",
                    "not YAML: " + (e.getContext() == null ? "" : e.getContext() + ", ") + e.getProblem()));
        } catch (StackOverflowError e) {
            document.problems.add(new SetupProblem(1, 1, "", "lists and objects stand too deeply inside one another"));
        } catch (YamlEngineException e) {
            document.problems.add(new SetupProblem(1, 1, "", "not YAML: " + e.getMessage()));
        }
        return document;
    }

    /** Of something that stands in no file: its problems have no lines. */
    public static SetupDocument unwritten(Object root) {
        SetupDocument document = new SetupDocument();
        document.root = root;
        return document;
    }

    /** A node as plain values. */
    static Object plain(Node node) {
        return new SetupDocument().value(node, "");
    }

    public Object root() {
        return root;
    }

    public List<SetupProblem> problems() {
        return problems;
    }

    /** The problem, at the line of the pointer or of the nearest part around it that has one. */
    public SetupProblem problem(String pointer, String what) {
        return problem(pointer, what, 0);
    }

    /** @param columns how far into the value the problem is, where that is known */
    public SetupProblem problem(String pointer, String what, int columns) {
        String at = pointer;
        while (!places.containsKey(at) && !at.isEmpty()) {
            at = at.substring(0, at.lastIndexOf('/'));
        }
        Mark mark = places.get(at);
        return new SetupProblem(
                mark == null ? 1 : mark.getLine() + 1,
                mark == null ? 1 : mark.getColumn() + 1 + columns,
                pointer.isEmpty()
                        ? ""
                        : pointer.substring(1)
                                .replace('/', '.')
                                .replace("~1", "/")
                                .replace("~0", "~"),
                what);
    }

    private Object value(Node node, String pointer) {
        node.getStartMark().ifPresent(mark -> places.putIfAbsent(pointer, mark));
        if (!(node instanceof ScalarNode) && !met.add(node)) {
            problems.add(problem(
                    pointer,
                    "an alias (`*`) of a list or an object is not taken, since a few of them can stand for a setup without"
                            + " end; write it out"));
            return null;
        }
        return switch (node) {
            case MappingNode mapping -> mapping(mapping, pointer);
            case SequenceNode sequence -> {
                List<Object> items = new ArrayList<>();
                for (Node item : sequence.getValue()) {
                    items.add(value(item, pointer + "/" + items.size()));
                }
                yield items;
            }
            case ScalarNode scalar -> scalar(scalar);
            default -> throw new IllegalStateException("unforeseen YAML node " + node.getNodeType());
        };
    }

    private Map<String, Object> mapping(MappingNode mapping, String pointer) {
        Map<String, Object> fields = new LinkedHashMap<>();
        for (NodeTuple tuple : mapping.getValue()) {
            String name = tuple.getKeyNode() instanceof ScalarNode key ? key.getValue() : "?";
            String at = pointer + "/" + name.replace("~", "~0").replace("/", "~1");
            if (fields.containsKey(name)) {
                tuple.getKeyNode()
                        .getStartMark()
                        .ifPresent(mark -> problems.add(new SetupProblem(
                                mark.getLine() + 1,
                                mark.getColumn() + 1,
                                at.substring(1),
                                "`" + name + "` stands here a second time")));
                continue;
            }
            tuple.getKeyNode().getStartMark().ifPresent(mark -> places.put(at, mark));
            fields.put(name, value(tuple.getValueNode(), at));
        }
        return fields;
    }

    private static Object scalar(ScalarNode scalar) {
        String text = scalar.getValue();
        Tag tag = scalar.getTag();
        if (tag.equals(Tag.NULL)) {
            return null;
        }
        if (tag.equals(Tag.BOOL)) {
            return Boolean.parseBoolean(text);
        }
        try {
            if (tag.equals(Tag.INT)) {
                return Long.parseLong(text);
            }
            if (tag.equals(Tag.FLOAT)) {
                return new BigDecimal(text).doubleValue();
            }
        } catch (NumberFormatException e) {
            return text; // .inf, .nan, octal and over-long numbers: the schema says at the place what was wanted
        }
        return text;
    }

    public static Map<String, Object> block(Object value) {
        if (!(value instanceof Map<?, ?> map)) {
            return new LinkedHashMap<>();
        }
        Map<String, Object> fields = LinkedHashMap.newLinkedHashMap(map.size());
        map.forEach((name, field) -> fields.put(name.toString(), field));
        return fields;
    }
}
