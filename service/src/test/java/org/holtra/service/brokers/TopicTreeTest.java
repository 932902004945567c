package org.holtra.service.brokers;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.holtra.core.reading.sparkplug.Metric;
import org.holtra.core.reading.sparkplug.MetricType;
import org.holtra.core.reading.sparkplug.Payload;
import org.holtra.core.reading.sparkplug.PayloadWriter;
import org.holtra.service.sharing.Look;
import org.holtra.service.sharing.Sighting;
import org.junit.jupiter.api.Test;

class TopicTreeTest {

    private static final Instant NOW = Instant.parse("2026-05-01T10:00:00Z");

    private static void saw(TopicTree tree, String topic, String payload) {
        tree.saw(topic, payload.getBytes(StandardCharsets.UTF_8), false, NOW);
    }

    private static Look look(TopicTree tree) {
        return tree.look("#", 5, 100, 1_000);
    }

    @Test
    void topicsAreShownLevelByLevelWithWhatCameLast() {
        TopicTree tree = new TopicTree();
        saw(tree, "site/north/flow", "1");
        saw(tree, "site/north/flow", "2");
        saw(tree, "site/south", "x");

        Look look = look(tree);
        assertThat(look.messages()).isEqualTo(3);
        Sighting site = look.found().getFirst();
        assertThat(site.name()).isEqualTo("site");
        assertThat(site.messages()).isEqualTo(3);
        assertThat(site.places()).isEqualTo(2);
        assertThat(site.last()).isNull();
        assertThat(site.below()).extracting(Sighting::name).containsExactly("north", "south");
        Sighting flow = site.below().getFirst().below().getFirst();
        assertThat(flow.path()).isEqualTo("site/north/flow");
        assertThat(flow.last()).isEqualTo("2");
        assertThat(flow.lastAt()).isEqualTo(NOW);
        assertThat(tree.topics()).containsExactly("site/north/flow", "site/south");
    }

    @Test
    void atATopicMayStandAMessageAndOthersBelowIt() {
        TopicTree tree = new TopicTree();
        saw(tree, "a", "own");
        saw(tree, "a/b", "below");

        Sighting a = look(tree).found().getFirst();
        assertThat(a.last()).isEqualTo("own");
        assertThat(a.places()).isEqualTo(2);
    }

    @Test
    void ofManyTopicsSoManyAreHeldAndTheRestIsCounted() {
        TopicTree tree = new TopicTree(10);
        for (int i = 0; i < 100_000; i++) {
            saw(tree, "t" + i, "1");
        }

        Look look = look(tree);
        assertThat(look.found()).hasSize(10);
        assertThat(look.beyond()).isEqualTo(99_990);
        assertThat(look.messages()).isEqualTo(100_000);
    }

    @Test
    void ofALevelTheBusiestAreShownAndTheOthersCounted() {
        TopicTree tree = new TopicTree();
        for (int i = 0; i < 50; i++) {
            saw(tree, "quiet/" + i, "1");
        }
        saw(tree, "quiet/busy", "1");
        saw(tree, "quiet/busy", "1");

        Sighting quiet = tree.look("#", 5, 3, 1_000).found().getFirst();
        assertThat(quiet.below()).hasSize(3).extracting(Sighting::name).contains("busy");
        assertThat(quiet.notShown()).isEqualTo(48);
        assertThat(tree.look("#", 5, 100, 5).found().getFirst().below()).hasSize(4);
    }

    @Test
    void metricsOfSparkplugAreShownWithTheirValues() {
        TopicTree tree = new TopicTree();
        Metric flow = new Metric("Flow", 1L, null, MetricType.DOUBLE, false, false, 4.5, Map.of());
        Metric state = new Metric(null, 2L, null, null, false, false, 1L, Map.of());
        tree.saw(
                "spBv1.0/larkmoor/NDATA/ph-01",
                PayloadWriter.write(new Payload(1L, List.of(flow, state), 1L)),
                false,
                NOW);

        Sighting node = look(tree)
                .found()
                .getFirst()
                .below()
                .getFirst()
                .below()
                .getFirst()
                .below()
                .getFirst();
        assertThat(node.last()).isEqualTo("Flow = 4.5, alias 2 = 1");
        assertThat(node.below()).extracting(Sighting::path).containsExactly("Flow");
        assertThat(node.below().getFirst().last()).isEqualTo("4.5");
    }

    @Test
    void bytesThatAreNoTextAreShownInHexadecimal() {
        TopicTree tree = new TopicTree();
        tree.saw("a", new byte[] {0x01, (byte) 0xff}, true, NOW);
        saw(tree, "b", "äöü".repeat(60));

        Look look = look(tree);
        assertThat(look.found().getFirst().last()).isEqualTo("01 ff");
        assertThat(look.found().getFirst().retained()).isTrue();
        assertThat(look.found().getLast().last()).startsWith("äöüäöü").doesNotContain("\uFFFD");
    }
}
