package org.holtra.core.reading;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import org.holtra.core.setup.Channel;
import org.junit.jupiter.api.Test;

class ChannelFieldsTest {

    private static Channel channel(String from, String field, String point, Double factor, String unit) {
        return new Channel(from, field, point, factor, unit, null, null, null);
    }

    private static Map<?, ?> data(ChannelFields.Made made) {
        return (Map<?, ?>) made.data();
    }

    @Test
    void aChannelIsMadeAFieldByItsFactorAndWhatWasSentStays() {
        var made = ChannelFields.of(Map.of("ch1", 3.0), List.of(channel("ch1", "power", null, 0.1, "kW")));
        assertThat(data(made).get("power")).isEqualTo(0.3);
        assertThat(data(made).get("ch1")).isEqualTo(3.0);
        assertThat(made.notes()).isEmpty();
    }

    @Test
    void aFieldOfAPointStandsInAnObjectThatExpressionsCanName() {
        var made = ChannelFields.of(
                Map.of("a", 1.0, "b", 2.0),
                List.of(
                        channel("a", "power", "clamp-1", null, null),
                        channel("b", "power", "clamp-2", null, null),
                        channel("b", "energy", "clamp-2", 10.0, null)));
        assertThat(data(made).get("clamp_1")).isEqualTo(Map.of("power", 1.0));
        assertThat(data(made).get("clamp_2")).isEqualTo(Map.of("power", 2.0, "energy", 20.0));
    }

    @Test
    void placesInListsAndNamesWithDotsAreFound() {
        Map<String, Object> sent = Map.of("r", List.of(Map.of("v", "7.5"), Map.of("v", 2.0)), "a.b", 4.0);
        var made = ChannelFields.of(
                sent, List.of(channel("r.0.v", "first", null, 2.0, null), channel("a.b", "dotted", null, null, null)));
        assertThat(data(made).get("first")).isEqualTo(15.0);
        assertThat(data(made).get("dotted")).isEqualTo(4.0);
        assertThat(ChannelFields.places(sent, 10)).containsEntry("r.1.v", 2L).containsEntry("a.b", 4L);
    }

    @Test
    void aListIsKeptBesideTheFieldsThatAreMadeOfIt() {
        var made = ChannelFields.of(List.of(1.0, 2.0), List.of(channel("1", "second", null, null, null)));
        assertThat(data(made).get("second")).isEqualTo(2.0);
        assertThat(data(made).get("items")).isEqualTo(List.of(1.0, 2.0));
    }

    @Test
    void aFieldThatWasSentIsNeverWrittenOverByAChannelOfAnotherName() {
        var made =
                ChannelFields.of(Map.of("ch1", 3.0, "power", 9.0), List.of(channel("ch1", "power", null, null, null)));
        assertThat(data(made).get("power")).isEqualTo(9.0);
        assertThat(made.notes()).singleElement().asString().contains("a field of that name was sent");
    }

    @Test
    void aChannelMayScaleTheFieldItIsMadeOf() {
        var made = ChannelFields.of(Map.of("power", 3000.0), List.of(channel("power", "power", null, 0.001, "kW")));
        assertThat(data(made).get("power")).isEqualTo(3.0);
        assertThat(made.notes()).isEmpty();
    }

    @Test
    void textThatIsNoNumberIsNotedWhereANumberIsWanted() {
        var made = ChannelFields.of(
                Map.of("ch1", "n/a", "name", "pump"),
                List.of(channel("ch1", "power", null, 2.0, null), channel("name", "label", null, null, null)));
        assertThat(data(made).containsKey("power")).isFalse();
        assertThat(data(made).get("label")).isEqualTo("pump");
        assertThat(made.notes()).singleElement().asString().contains("ch1", "power wants a number");
    }

    @Test
    void aChannelThatDoesNotComeIsNoFault() {
        var made = ChannelFields.of(Map.of("ch1", 1.0), List.of(channel("ch2", "power", null, null, null)));
        assertThat(made.notes()).isEmpty();
        assertThat(data(made).containsKey("power")).isFalse();
    }
}
