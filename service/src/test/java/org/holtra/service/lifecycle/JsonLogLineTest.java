package org.holtra.service.lifecycle;

import static org.assertj.core.api.Assertions.assertThat;

import ch.qos.logback.classic.Level;
import ch.qos.logback.classic.Logger;
import ch.qos.logback.classic.spi.LoggingEvent;
import java.util.Map;
import org.holtra.service.support.Client;
import org.junit.jupiter.api.Test;
import org.slf4j.LoggerFactory;
import tools.jackson.databind.JsonNode;

class JsonLogLineTest {

    private static String line(Throwable thrown, Map<String, String> context) {
        LoggingEvent event = new LoggingEvent(
                "",
                (Logger) LoggerFactory.getLogger("org.holtra.Some"),
                Level.WARN,
                "outlet {} is \"broken\"\nsince now",
                thrown,
                new Object[] {"desk"});
        event.setMDCPropertyMap(context);
        return new JsonLogLine().format(event);
    }

    @Test
    void eachLineIsAnObjectOnALineOfItsOwn() {
        String line = line(null, Map.of("trace", "0190abc"));

        assertThat(line).endsWith("}\n");
        assertThat(line.strip()).doesNotContain("\n");
        JsonNode json = Client.JSON.readTree(line);
        assertThat(json.path("level").asString()).isEqualTo("WARN");
        assertThat(json.path("logger").asString()).isEqualTo("org.holtra.Some");
        assertThat(json.path("message").asString()).isEqualTo("outlet desk is \"broken\"\nsince now");
        assertThat(json.path("trace").asString()).isEqualTo("0190abc");
        assertThat(json.has("error")).isFalse();
        assertThat(json.path("time").asString()).endsWith("Z");
    }

    @Test
    void anErrorStandsInItsLineWithItsTrace() {
        JsonNode json = Client.JSON.readTree(line(new IllegalStateException("no room"), Map.of()));

        assertThat(json.path("error").asString())
                .startsWith("java.lang.IllegalStateException: no room")
                .contains("JsonLogLineTest");
        assertThat(json.has("trace")).isFalse();
    }
}
