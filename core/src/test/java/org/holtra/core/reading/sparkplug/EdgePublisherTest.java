package org.holtra.core.reading.sparkplug;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.IntStream;
import org.holtra.core.reading.sparkplug.EdgePublisher.Publication;
import org.junit.jupiter.api.Test;

class EdgePublisherTest {

    private final EdgePublisher publisher = new EdgePublisher("larkmoor", "holtra", Set.of("count"), 255);
    private final EdgeNode host = new EdgeNode();

    private static List<String> topics(List<Publication> publications) {
        return publications.stream().map(one -> one.topic().toString()).toList();
    }

    private List<Publication> data(String device, long at, Object... values) {
        Map<String, Object> named = new LinkedHashMap<>();
        for (int i = 0; i < values.length; i += 2) {
            named.put((String) values[i], values[i + 1]);
        }
        return publisher.data(device, named, at, 1_000);
    }

    private static List<String> values(Publication publication) {
        return publication.payload().metrics().stream()
                .map(metric -> metric.name() + " " + metric.type().word() + " " + metric.raw()
                        + (metric.historical() ? " historical" : ""))
                .toList();
    }

    /** What a host makes of it, having read it from its bytes. */
    private EdgeNode.Outcome heard(Publication one) {
        try {
            return host.take(one.topic(), PayloadReader.read(PayloadWriter.write(one.payload())));
        } catch (PayloadReader.Unreadable e) {
            throw new AssertionError(e);
        }
    }

    @Test
    void aConnectionsWillAndBirthHaveTheSameNumberAndTheNextAnother() {
        Publication will = publisher.connecting(1);
        Publication birth = publisher.births(1).getFirst();

        assertThat(will.topic()).hasToString("spBv1.0/larkmoor/NDEATH/holtra");
        assertThat(will.payload().sequence()).isNull();
        assertThat(will.payload().birthDeathSequence()).contains(0L);
        assertThat(birth.payload().birthDeathSequence()).contains(0L);
        assertThat(publisher.connecting(2).payload().birthDeathSequence()).contains(1L);
    }

    @Test
    void aDeviceIsBornBeforeItsData() {
        publisher.births(1);

        assertThat(topics(data("st-1", 10, "t", 4.5))).containsExactly("spBv1.0/larkmoor/DBIRTH/holtra/st-1");
        List<Publication> second = data("st-1", 20, "t", 5.0);

        assertThat(topics(second)).containsExactly("spBv1.0/larkmoor/DDATA/holtra/st-1");
        assertThat(values(second.getFirst())).containsExactly("t Double 5.0");
        assertThat(second.getFirst().payload().metrics().getFirst().timestamp()).isEqualTo(20);
    }

    @Test
    void aMetricThatIsNewOrOfAnotherTypeMakesANewBirthWithAllOfThem() {
        publisher.births(1);
        data("st-1", 10, "t", 4.5);

        List<Publication> more = data("st-1", 20, "open", true);
        List<Publication> other = data("st-1", 30, "t", "broken");

        assertThat(topics(more)).containsExactly("spBv1.0/larkmoor/DBIRTH/holtra/st-1");
        assertThat(values(more.getFirst())).containsExactly("t Double 4.5", "open Boolean true");
        assertThat(values(other.getFirst())).containsExactly("t String broken", "open Boolean true");
    }

    @Test
    void whatIsOlderThanTheNewestIsHistoricalAndNoBirthsValue() {
        publisher.births(1);
        data("st-1", 100, "t", 4.5);

        List<Publication> late = data("st-1", 50, "t", 3.0, "wet", 2.0);

        assertThat(topics(late))
                .containsExactly("spBv1.0/larkmoor/DBIRTH/holtra/st-1", "spBv1.0/larkmoor/DDATA/holtra/st-1");
        assertThat(values(late.getFirst())).containsExactly("t Double 4.5", "wet Double null");
        assertThat(values(late.getLast())).containsExactly("t Double 3.0 historical", "wet Double 2.0 historical");
        assertThat(values(data("st-1", 110, "t", 5.0).getFirst())).containsExactly("t Double 5.0");
    }

    @Test
    void wholeNumbersAreWhatTheyAreSaidToBe() {
        publisher.births(1);

        assertThat(values(data("st-1", 10, "count", 7.0).getFirst())).containsExactly("count Int64 7");
        assertThatThrownBy(() -> data("st-1", 20, "count", 7.5))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("metric `count` is to be a whole number, and is 7.5");
    }

    @Test
    void aHostUnderstandsItOverMoreThanOneRoundOfNumbersAndAfterARebirth() {
        publisher.connecting(1);
        List<Publication> all = new ArrayList<>(publisher.births(1));
        IntStream.range(0, 600).forEach(n -> all.addAll(data("st-" + n % 3, n, "t", n / 2.0)));
        all.addAll(publisher.births(2));
        all.addAll(data("st-1", 700, "t", null));

        assertThat(all).allSatisfy(one -> assertThat(heard(one)).isNotInstanceOf(EdgeNode.Outcome.Rebirth.class));
        assertThat(topics(all.subList(all.size() - 5, all.size())))
                .containsExactly(
                        "spBv1.0/larkmoor/NBIRTH/holtra",
                        "spBv1.0/larkmoor/DBIRTH/holtra/st-0",
                        "spBv1.0/larkmoor/DBIRTH/holtra/st-1",
                        "spBv1.0/larkmoor/DBIRTH/holtra/st-2",
                        "spBv1.0/larkmoor/DDATA/holtra/st-1");
    }
}
