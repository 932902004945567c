package org.holtra.service.kinds.mqtt;

import java.util.List;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.core.shape.ShapeField;

/** What a shape may say beside the body of a message: its topic and its user properties. */
final class MqttShape {

    static final String TOPIC = "topic";
    static final String PROPERTIES = "properties";

    static final List<ShapeField> FIELDS =
            List.of(ShapeField.text(TOPIC, new Topic()), ShapeField.named(PROPERTIES, new Property()));

    private MqttShape() {}

    private record Topic() implements ShapeField.Writing {

        /** A value stays inside its level: a slash in it would make another topic, a wildcard none (MQTT 5.0, section 4.7). */
        @Override
        public String value(String value) {
            return value.replaceAll("[/+#\\p{Cntrl}]", "_");
        }

        @Override
        public String whole(String topic) throws ShapeFailure {
            if (topic.indexOf('+') >= 0 || topic.indexOf('#') >= 0) {
                throw new ShapeFailure(
                        TOPIC, "`" + topic + "` has a wildcard; messages are published to one topic, without + and #");
            }
            return topic;
        }
    }

    private record Property() implements ShapeField.Writing {

        @Override
        public String value(String value) {
            return value.replaceAll("\\p{Cntrl}", " ");
        }
    }
}
