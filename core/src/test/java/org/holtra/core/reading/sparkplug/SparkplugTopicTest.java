package org.holtra.core.reading.sparkplug;

import static org.assertj.core.api.Assertions.assertThat;

import org.holtra.core.reading.sparkplug.SparkplugTopic.Type;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class SparkplugTopicTest {

    @Test
    void aTopicOfANodeOrOfADeviceIsTakenApart() {
        assertThat(SparkplugTopic.of("spBv1.0/larkmoor/NDATA/ph-01"))
                .contains(new SparkplugTopic("larkmoor", Type.NDATA, "ph-01", null));
        SparkplugTopic device =
                SparkplugTopic.of("spBv1.0/larkmoor/DBIRTH/ph-01/pump-2").orElseThrow();
        assertThat(device.key()).isEqualTo("larkmoor/ph-01/pump-2");
        assertThat(device.nodeKey()).isEqualTo("larkmoor/ph-01");
        assertThat(device).hasToString("spBv1.0/larkmoor/DBIRTH/ph-01/pump-2");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "spBv1.0/larkmoor/NDATA",
                "spBv1.0/STATE/host",
                "spBv1.0/larkmoor/DDATA/ph-01",
                "spBv1.0/larkmoor/NDATA/ph-01/pump-2",
                "spBv1.0/larkmoor/OTHER/ph-01",
                "spAv1.0/larkmoor/NDATA/ph-01",
                "spBv1.0/larkmoor/DDATA/ph-01/pump-2/more"
            })
    void otherTopicsAreNone(String topic) {
        assertThat(SparkplugTopic.of(topic)).isEmpty();
    }
}
