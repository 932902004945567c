package org.holtra.core.setup.compile;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import org.holtra.core.setup.Channel;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ChannelCheckTest {

    @ParameterizedTest
    @CsvSource({
        ", power, , , , , , where the channel stands",
        "ch1, 1power, , , , , , begins with no digit",
        "ch1, power, Clamp, , , , , lower-case",
        "ch1, power, , 0, , , , other than 0",
        "ch1, power, , , kWatt, , , UCUM",
        "ch1, power, , , , 5, 1, min is above max",
    })
    void saysWhatIsWrong(
            String from,
            String field,
            String point,
            Double factor,
            String unit,
            Double min,
            Double max,
            String wanted) {
        assertThat(ChannelCheck.problems(List.of(new Channel(from, field, point, factor, unit, min, max, null))))
                .singleElement()
                .satisfies(problem -> assertThat(problem.what()).contains(wanted));
    }

    @Test
    void twoChannelsOfOneFieldAreWrongAndOfTwoPointsAreNot() {
        Channel one = new Channel("ch1", "power", "a", null, null, null, null, null);
        Channel other = new Channel("ch2", "power", "b", null, null, null, null, null);
        assertThat(ChannelCheck.problems(List.of(one, other))).isEmpty();
        assertThat(ChannelCheck.problems(List.of(one, other, one)))
                .singleElement()
                .satisfies(problem -> assertThat(problem.number()).isEqualTo(2));
    }
}
