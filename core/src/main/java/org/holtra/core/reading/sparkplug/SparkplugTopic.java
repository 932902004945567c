package org.holtra.core.reading.sparkplug;

import java.util.Arrays;
import java.util.Optional;

/**
 * The topic of a message (Sparkplug 3.0, section 4): {@code spBv1.0/group/type/node[/device]}.
 *
 * @param device null for a message of the edge node itself
 */
public record SparkplugTopic(String group, Type type, String node, String device) {

    public static final String NAMESPACE = "spBv1.0";

    /** What a message is. */
    public enum Type {
        NBIRTH,
        NDEATH,
        NDATA,
        NCMD,
        DBIRTH,
        DDEATH,
        DDATA,
        DCMD;

        /** Whether it is of a device. */
        public boolean ofDevice() {
            return name().startsWith("D");
        }
    }

    private static final int PARTS_OF_NODE = 4;

    /** Empty for a topic that is no such one, such as the state of a host application. */
    public static Optional<SparkplugTopic> of(String topic) {
        String[] parts = topic.split("/", -1);
        if (parts.length < PARTS_OF_NODE || parts.length > PARTS_OF_NODE + 1 || !parts[0].equals(NAMESPACE)) {
            return Optional.empty();
        }
        Optional<Type> type = Arrays.stream(Type.values())
                .filter(one -> one.name().equals(parts[2]))
                .filter(one -> one.ofDevice() == (parts.length > PARTS_OF_NODE))
                .findFirst();
        return type.map(
                one -> new SparkplugTopic(parts[1], one, parts[3], parts.length > PARTS_OF_NODE ? parts[4] : null));
    }

    /** The edge node's name among all: {@code group/node}. */
    public String nodeKey() {
        return group + "/" + node;
    }

    /** Whom it is of: {@code group/node} or {@code group/node/device}. */
    public String key() {
        return device == null ? nodeKey() : nodeKey() + "/" + device;
    }

    @Override
    public String toString() {
        return NAMESPACE + "/" + group + "/" + type + "/" + node + (device == null ? "" : "/" + device);
    }
}
